<script setup lang="ts">
import { ElCheckbox, ElCheckboxGroup } from 'element-plus'

import { weekdays } from '../words'

/** Days of the week, 0 is Sunday; shown from Monday on. */
defineProps<{ label: string }>()
const days = defineModel<number[]>({ required: true })
const order = [1, 2, 3, 4, 5, 6, 0]
</script>

<template>
  <ElCheckboxGroup v-model="days" :aria-label="label" class="days">
    <span class="soft">{{ label }}:</span>
    <ElCheckbox v-for="d in order" :key="d" :value="d">{{ weekdays[d] }}</ElCheckbox>
  </ElCheckboxGroup>
</template>

<style scoped>
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
  align-items: center;
}
</style>
