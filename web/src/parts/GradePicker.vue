<script setup lang="ts">
import { gradeNames } from '../words'

/** Six big steps of the silt scale to tap or walk with the arrow keys. */
defineProps<{ label: string; name: string }>()
const model = defineModel<number | null>({ required: true })
</script>

<template>
  <fieldset class="grades">
    <legend class="label">{{ label }}</legend>
    <div class="row">
      <label v-for="(word, g) in gradeNames" :key="g" :class="[`g${g}`, { on: model === g }]">
        <input v-model="model" type="radio" class="visually-hidden" :name="name" :value="g" />
        <span class="n">{{ g }}</span>
        <span class="w">{{ word }}</span>
      </label>
    </div>
  </fieldset>
</template>

<style scoped>
.grades {
  border: 0;
  padding: 0;
  margin: 0 0 12px;
  min-width: 0;
}
.row {
  display: grid;
  grid-template-columns: repeat(6, 1fr);
  gap: 3px;
  max-width: 520px;
}
label {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  min-height: 52px;
  cursor: pointer;
  border: 3px solid transparent;
}
label.on {
  border-color: var(--petrol);
  box-shadow: inset 0 0 0 2px var(--sheet);
}
label:focus-within {
  outline: 2px solid var(--petrol);
  outline-offset: 2px;
}
.n {
  font-size: 18px;
  font-weight: 700;
  line-height: 1.1;
}
.w {
  font-size: 12.5px;
}
.g3 .w {
  color: var(--on-silt);
}
</style>
