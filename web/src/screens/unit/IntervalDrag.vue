<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../../api/client'
import { session } from '../../session'
import { count, percent } from '../../words'
import { useCore } from '../bench/useCore'

/** What an interval looks like from today on: dragged or moved by keys, worked out by the core while it moves. */
export interface Preview {
  days: number
  total_day: number
  clean_day: number
  soil_day: number
  over_day: number
  over_days_year: number
  over_at_end: number
  over_at_due: number
  year_money: number
  fan: { day: number; p10: number; p50: number; p90: number }[]
  cleans: number[]
}
const props = defineProps<{
  bench: Schemas['IntervalBench']
  inForce: number
  proposed?: number
  label: string
}>()
const emit = defineEmits<{ moved: [preview: Preview | null] }>()

const days = ref(props.proposed ?? props.inForce)
watch(
  () => [props.inForce, props.proposed],
  () => (days.value = props.proposed ?? props.inForce),
)
const dueIn = (d: number) =>
  Math.max(0, props.bench.since_days === undefined ? props.bench.due_in_days : d - props.bench.since_days)
const { result, failed } = useCore<Preview>('preview', () => ({
  now: props.bench.now,
  after: props.bench.after,
  days: days.value,
  due_in_days: dueIn(days.value),
}))
const { result: force } = useCore<Preview>('preview', () => ({
  now: props.bench.now,
  after: props.bench.after,
  days: props.inForce,
  due_in_days: dueIn(props.inForce),
}))
watch(result, (r) => emit('moved', r), { immediate: true })

const most = computed(() => Math.max(props.bench.most_days, props.inForce, props.proposed ?? 0))
const money = (v: number) => `${v.toFixed(v < 10 ? 2 : 0)} ${session.value?.currency ?? ''}`
const change = computed(() => {
  if (!result.value || !force.value || days.value === props.inForce) return ''
  const d = result.value.year_money - force.value.year_money
  if (Math.abs(d) < 0.5) return 'the same a year as now'
  return `${money(Math.abs(d))} a year ${d < 0 ? 'less' : 'more'} than now`
})
</script>

<template>
  <div class="drag">
    <label
      ><span class="label">{{ label }} every</span>
      <input
        v-model.number="days"
        type="range"
        :min="7"
        :max="most"
        :step="7"
        :aria-label="`${label}: try another interval`"
        :aria-valuetext="`${days} days`"
      />
      <output class="days">{{ days }} d</output>
    </label>
    <p v-if="failed" class="field-error" role="alert">{{ failed }}</p>
    <dl v-if="result" aria-live="off">
      <div>
        <dt>A year costs</dt>
        <dd>
          <strong>{{ money(result.year_money) }}</strong>
        </dd>
      </div>
      <div>
        <dt>cleaning</dt>
        <dd>{{ money(365 * result.clean_day) }}</dd>
      </div>
      <div>
        <dt>energy, call-outs</dt>
        <dd>{{ money(365 * result.soil_day) }}</dd>
      </div>
      <div>
        <dt>over the limit</dt>
        <dd>{{ money(365 * result.over_day) }}, {{ count(Math.round(result.over_days_year), 'day') }}</dd>
      </div>
      <div>
        <dt>risk at the next clean</dt>
        <dd>
          <strong :class="{ over: result.over_at_due > (bench.after.risk_share ?? 0.2) }">{{
            percent(result.over_at_due)
          }}</strong>
        </dd>
      </div>
    </dl>
    <p class="soft compare">
      {{
        days === inForce
          ? 'This is the present interval. Drag, or use the arrow keys, to try another.'
          : change
      }}
    </p>
  </div>
</template>

<style scoped>
.drag {
  border-top: 1px solid var(--hairline);
  padding: 8px 0 2px;
}
label {
  display: grid;
  grid-template-columns: auto 1fr 64px;
  gap: 12px;
  align-items: center;
}
.label {
  font-size: 14px;
}
input[type='range'] {
  accent-color: var(--petrol);
  width: 100%;
  height: 24px;
}
.days {
  font-weight: 650;
  font-size: 18px;
  text-align: right;
}
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 22px;
  margin: 4px 0 0;
}
dt {
  font-size: 12.5px;
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
.compare {
  margin: 2px 0 0;
}
</style>
