<script setup lang="ts">
import { ElInput } from 'element-plus'
import { ref, watch } from 'vue'

import { asText, numberOf, type Quantity, shown, typed, unitOf } from '../units'

/** A figure with its unit. What is typed stays as typed; what is given on is SI, or the text when it is no number. */
const props = defineProps<{ quantity?: Quantity; unit?: string; name?: string; disabled?: boolean }>()
const value = defineModel<unknown>()

const show = (v: unknown): string =>
  v === undefined || v === null
    ? ''
    : typeof v === 'number'
      ? asText(props.quantity ? shown(props.quantity, v) : v)
      : String(v)
const text = ref(show(value.value))
let mine: unknown = value.value
watch(value, (v) => {
  if (v !== mine) text.value = show(v)
  mine = v
})

function put(v: string) {
  text.value = v
  const n = numberOf(v)
  const plain = v.trim()
  mine = plain === '' ? undefined : Number.isNaN(n) ? v : props.quantity ? typed(props.quantity, n) : n
  value.value = mine
}
</script>

<template>
  <ElInput
    :model-value="text"
    inputmode="decimal"
    :name="name"
    :disabled="disabled"
    @update:model-value="put"
  >
    <template v-if="quantity || unit" #suffix>{{ quantity ? unitOf(quantity) : unit }}</template>
  </ElInput>
</template>
