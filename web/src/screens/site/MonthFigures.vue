<script setup lang="ts">
import { ElInputNumber } from 'element-plus'
import { computed, ref } from 'vue'

import { readMonths } from './monthFigures'

/** Twelve figures, one to a month: typed, pasted, or from a file of degree-days. */
const props = defineProps<{ modelValue?: number[] }>()
const emit = defineEmits<{ 'update:modelValue': [months: number[] | undefined] }>()

const names = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
const figures = computed(() => props.modelValue ?? [])

function put(i: number, v: number | undefined) {
  const next = names.map((_, k) => (k === i ? (v ?? 0) : (figures.value[k] ?? 0)))
  emit('update:modelValue', next.some((x) => x > 0) ? next : undefined)
}
const problem = ref('')
function read(text: string) {
  const got = readMonths(text)
  problem.value = 'problem' in got ? got.problem : ''
  if ('months' in got) emit('update:modelValue', got.months)
  return 'months' in got
}
/** Takes twelve numbers out of what is pasted; a single number is left to the field. */
function paste(e: ClipboardEvent) {
  const text = e.clipboardData?.getData('text') ?? ''
  if (/[\s;,]/.test(text.trim()) && read(text)) e.preventDefault()
}
async function choose(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) read(await file.text())
  input.value = ''
}
</script>

<template>
  <fieldset class="months" @paste.capture="paste">
    <legend>Cooling asked for by month, such as degree-days (optional; comes before the climate)</legend>
    <label v-for="(name, i) in names" :key="name">
      <span class="label">{{ name }}</span>
      <ElInputNumber
        :model-value="figures[i]"
        :min="0"
        :max="100000"
        :controls="false"
        :aria-label="`Cooling in ${name}`"
        @update:model-value="(v) => put(i, v ?? undefined)"
      />
    </label>
    <label class="file"
      ><span class="label">or a file of degree-days (CSV): by month, or by day</span>
      <input type="file" accept=".csv,text/csv,text/plain" name="degree-days" @change="choose" />
    </label>
    <p v-if="problem" class="field-error file" role="alert">{{ problem }}</p>
  </fieldset>
</template>

<style scoped>
.months {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(64px, 1fr));
  gap: 6px;
  border: 0;
  padding: 0;
  margin: 8px 0;
}
.file {
  grid-column: 1 / -1;
}
legend {
  padding: 0 0 4px;
}
.months :deep(.el-input-number) {
  width: 100%;
}
</style>
