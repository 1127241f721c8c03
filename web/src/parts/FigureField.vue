<script setup lang="ts">
import { computed, useId } from 'vue'

import { asText, type Quantity, shown, unitOf } from '../units'
import NumberInput from './NumberInput.vue'
import { unread } from './unread'

/**
 * A labelled figure that is a number or nothing. What is no number is kept as it was typed, is said so, and is given to nobody;
 * what lies outside of its range is said so, too.
 */
const props = defineProps<{
  label: string
  quantity?: Quantity
  unit?: string
  hint?: string
  error?: string
  /** Tells apart fields of the same label. */
  at?: string
  /** What it lies between, in SI units. */
  from?: number
  to?: number
}>()
const model = defineModel<number | null>({ required: true })
const id = useId()
const place = computed(() => [props.label, props.at].filter(Boolean).join(', '))
const value = computed({
  get: () => unread.get(place.value) ?? model.value ?? undefined,
  set: (v: unknown) => {
    const good = typeof v === 'number' && Number.isFinite(v)
    if (good || v === undefined || v === null || v === '') unread.delete(place.value)
    else unread.set(place.value, String(v))
    model.value = good ? v : null
  },
})
const inUnits = (v: number) =>
  props.quantity
    ? `${asText(shown(props.quantity, v))} ${unitOf(props.quantity)}`
    : [asText(v), props.unit].filter(Boolean).join(' ')
const wrong = computed(() => {
  const raw = unread.get(place.value)
  if (raw !== undefined)
    return /^\d{1,3}(,\d{3})+$/.test(raw.trim())
      ? `“${raw}” can be read in two ways: write ${raw.replaceAll(',', '')}, or a point before the decimals.`
      : `“${raw}” is not a number.`
  const v = model.value
  if (v === null || v === undefined) return ''
  if (props.from !== undefined && v < props.from) return `At least ${inUnits(props.from)}.`
  if (props.to !== undefined && v > props.to) return `At most ${inUnits(props.to)}.`
  return ''
})
</script>

<template>
  <div class="field" role="group" :aria-labelledby="id">
    <label
      ><span :id="id" class="label">{{ label }}</span
      ><NumberInput
        v-model="value"
        :name="label"
        v-bind="{
          ...(props.quantity ? { quantity: props.quantity } : {}),
          ...(props.unit ? { unit: props.unit } : {}),
        }"
    /></label>
    <span v-if="hint" class="soft">{{ hint }}</span>
    <span v-if="wrong || error" class="field-error" role="alert">{{ wrong || error }}</span>
  </div>
</template>
