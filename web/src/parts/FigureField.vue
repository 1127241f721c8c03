<script setup lang="ts">
import { computed, useId } from 'vue'

import type { Quantity } from '../units'
import NumberInput from './NumberInput.vue'

/** A labelled figure that is a number or nothing; what is no number is not taken over. */
const props = defineProps<{
  label: string
  quantity?: Quantity
  unit?: string
  hint?: string
  error?: string
}>()
const model = defineModel<number | null>({ required: true })
const id = useId()
const value = computed({
  get: () => model.value ?? undefined,
  set: (v: unknown) => {
    model.value = typeof v === 'number' && Number.isFinite(v) ? v : null
  },
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
    <span v-if="error" class="field-error" role="alert">{{ error }}</span>
  </div>
</template>
