<script setup lang="ts">
import { ElInputNumber } from 'element-plus'
import { computed } from 'vue'

/** Twelve figures, one to a month: typed, or pasted as a column or as the rows of a CSV file, the last number of each row. */
const props = defineProps<{ modelValue?: number[] }>()
const emit = defineEmits<{ 'update:modelValue': [months: number[] | undefined] }>()

const names = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
const figures = computed(() => props.modelValue ?? [])

function put(i: number, v: number | undefined) {
  const next = names.map((_, k) => (k === i ? (v ?? 0) : (figures.value[k] ?? 0)))
  emit('update:modelValue', next.some((x) => x > 0) ? next : undefined)
}
/** Takes twelve numbers out of what is pasted; anything else is left to the field. */
function paste(e: ClipboardEvent) {
  const rows = (e.clipboardData?.getData('text') ?? '').split(/\r?\n/).filter((r) => /\d/.test(r))
  const one = rows.length === 1 ? rows[0].split(/[\s;,]+/) : rows.map((r) => r.split(/[\t;,]/).at(-1) ?? '')
  const numbers = one.map((x) => Number(x.trim())).filter((x) => Number.isFinite(x))
  if (numbers.length !== 12) return
  e.preventDefault()
  emit('update:modelValue', numbers)
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
legend {
  padding: 0 0 4px;
}
.months :deep(.el-input-number) {
  width: 100%;
}
</style>
