<script setup lang="ts">
import type { ApiProblem } from '../api/client'

/** The whole of what went wrong with a form, above the button that sent it. */
const props = defineProps<{ problem: ApiProblem | null; place?: (pointer: string) => string }>()

const where = (pointer: string) =>
  props.place?.(pointer) ?? pointer.replace(/^\//, '').replaceAll('/', ' › ').replaceAll('_', ' ')
</script>

<template>
  <div v-if="problem" class="notice danger" role="alert">
    <strong>{{ problem.message }}</strong>
    <ul v-if="problem.fields.length" class="list">
      <li v-for="f in problem.fields" :key="f.pointer + f.reason">{{ where(f.pointer) }}: {{ f.reason }}</li>
    </ul>
  </div>
</template>

<style scoped>
.list {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
