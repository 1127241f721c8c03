<script setup lang="ts">
import { ElButton } from 'element-plus'

import type { ApiProblem } from '../api/client'
import FieldGrid from './FieldGrid.vue'
import FieldNote from './FieldNote.vue'
import type { Field } from './fields'

/** Records of a kind inside another record: each can be changed and taken out, and more can be added. */
const props = defineProps<{
  fields: Field[]
  problem: ApiProblem | null
  at: string
  /** What one is called, such as placement. */
  what: string
  /** A new one, before anything is typed. */
  fresh: () => Record<string, unknown>
  fixed?: boolean
}>()
const records = defineModel<Record<string, unknown>[]>({ required: true })

const change = (i: number, r: Record<string, unknown>) => {
  records.value = records.value.map((x, k) => (k === i ? r : x))
}
const remove = (i: number) => {
  records.value = records.value.filter((_, k) => k !== i)
}
const add = () => {
  records.value = [...records.value, props.fresh()]
}
</script>

<template>
  <div>
    <FieldNote :problem="problem" :at="at" />
    <div v-for="(r, i) in records" :key="i" class="record">
      <FieldGrid
        :model-value="r"
        :fields="fields"
        :problem="problem"
        :at="`${at}/${i}`"
        dense
        @update:model-value="(v) => change(i, v)"
      />
      <FieldNote :problem="problem" :at="`${at}/${i}`" />
      <ElButton v-if="!fixed" class="out" :aria-label="`Remove ${what} ${i + 1}`" @click="remove(i)"
        >Remove</ElButton
      >
    </div>
    <p v-if="!records.length" class="soft">None.</p>
    <ElButton v-if="!fixed" @click="add">Add a {{ what }}</ElButton>
  </div>
</template>

<style scoped>
.record {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 14px;
  align-items: start;
  padding: 8px 0 2px;
  border-top: 1px solid var(--hairline);
}
.out {
  margin-top: 24px;
}
@media (max-width: 700px) {
  .record {
    grid-template-columns: minmax(0, 1fr);
  }
  .out {
    margin: 0 0 8px;
  }
}
</style>
