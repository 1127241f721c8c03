<script setup lang="ts" generic="T extends string | boolean">
import { useId } from 'vue'

/** One of a few, big enough for a thumb in a glove. */
defineProps<{ label: string; options: { value: T; label: string }[]; hideLabel?: boolean }>()
const model = defineModel<T | '' | null>({ required: true })
const id = useId()
</script>

<template>
  <fieldset class="tap">
    <legend :class="hideLabel ? 'visually-hidden' : 'label'">{{ label }}</legend>
    <div class="row">
      <label v-for="o in options" :key="String(o.value)" :class="{ on: model === o.value }">
        <input v-model="model" type="radio" class="visually-hidden" :name="id" :value="o.value" />{{
          o.label
        }}
      </label>
    </div>
  </fieldset>
</template>

<style scoped>
.tap {
  border: 0;
  padding: 0;
  margin: 0 0 12px;
  min-width: 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
label {
  position: relative;
  flex: 1 1 auto;
  min-height: 46px;
  min-width: 64px;
  padding: 4px 12px;
  display: flex;
  align-items: center;
  justify-content: center;
  text-align: center;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--sheet);
  cursor: pointer;
}
label.on {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
  font-weight: 600;
}
label:focus-within {
  outline: 2px solid var(--petrol);
  outline-offset: 2px;
}
</style>
