<script setup lang="ts">
import { computed, reactive, ref } from 'vue'

import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import { useCore } from './useCore'

defineProps<{ pack: Schemas['BenchPack'] }>()
interface Row {
  name: string
  spray: number | null
  rinse: number | null
  min: number | null
  max: number | null
}
const fresh = (i: number): Row => ({ name: `Coil ${i}`, spray: 2, rinse: 10, min: 5, max: 10 })
const rows = reactive<Row[]>([fresh(1), fresh(2)])
const opens = ref('08:00')
const walk = ref<number | null>(10)
const { result, failed } = useCore<Schemas['DwellPlan']>('dwell', () =>
  rows.some((r) => r.spray === null || r.rinse === null || r.min === null || r.max === null)
    ? null
    : {
        coils: rows.map((r) => ({
          name: r.name,
          spray_m: r.spray,
          rinse_m: r.rinse,
          min_m: r.min,
          max_m: r.max,
        })),
      },
)
const scale = computed(() => 100 / (result.value?.total_m || 1))
const clock = (m: number) => {
  const t = ((Math.round(m) % 1440) + 1440) % 1440
  return `${String(Math.floor(t / 60)).padStart(2, '0')}:${String(t % 60).padStart(2, '0')}`
}
const latest = computed(() => {
  const [h, m] = opens.value.split(':').map(Number)
  return result.value && h !== undefined && m !== undefined
    ? clock(h * 60 + m - (walk.value ?? 0) - result.value.total_m)
    : ''
})
const lanes = computed(() =>
  rows.map((r, i) => {
    const mine = (result.value?.steps ?? []).filter((s) => s.coil === r.name)
    const spray = mine.find((s) => s.do === 'spray')
    const rinse = mine.find((s) => s.do === 'rinse')
    return { name: r.name, spray, rinse, dwell: result.value?.dwell_m[i] ?? 0 }
  }),
)
</script>

<template>
  <div class="bench-two">
    <div>
      <div v-for="(r, i) in rows" :key="i" class="coil">
        <label class="field"
          ><span class="label">Name</span><input v-model="r.name" class="plain-input" maxlength="40"
        /></label>
        <FigureField v-model="r.spray" label="Spray" unit="min" />
        <FigureField v-model="r.rinse" label="Rinse" unit="min" />
        <FigureField v-model="r.min" label="Dwell from" unit="min" />
        <FigureField v-model="r.max" label="to" unit="min" />
        <button v-if="rows.length > 1" type="button" class="link" @click="rows.splice(i, 1)">remove</button>
      </div>
      <button v-if="rows.length < 7" type="button" class="link" @click="rows.push(fresh(rows.length + 1))">
        Another coil
      </button>
      <div class="fields">
        <label class="field"
          ><span class="label">The place opens</span><input v-model="opens" type="time" class="plain-input"
        /></label>
        <FigureField v-model="walk" label="Walk-through before that" unit="min" />
      </div>
    </div>
    <div>
      <p v-if="failed" class="notice danger" role="alert">{{ failed }}</p>
      <template v-else-if="result">
        <p class="bench-answer">{{ result.total_m.toFixed(0) }} min in all</p>
        <p v-if="result.spoiled" class="over">
          Sprayed straight after one another the last would stand {{ result.together_m.toFixed(0) }} min, past
          its maximum: spraying is staggered.
        </p>
        <p v-if="latest">
          To be through before {{ opens }}, begin at <strong>{{ latest }}</strong> at the latest.
        </p>
        <div class="lanes" role="img" aria-label="Order of the work; the same in words below">
          <div v-for="l in lanes" :key="l.name" class="lane">
            <span class="name">{{ l.name }}</span>
            <span class="track">
              <span
                v-if="l.spray && l.rinse"
                class="dwell"
                :style="{
                  left: `${l.spray.end_m * scale}%`,
                  width: `${(l.rinse.start_m - l.spray.end_m) * scale}%`,
                }"
                >{{ l.dwell.toFixed(0) }} min</span
              >
              <span
                v-if="l.spray"
                class="do"
                :style="{
                  left: `${l.spray.start_m * scale}%`,
                  width: `${(l.spray.end_m - l.spray.start_m) * scale}%`,
                }"
              ></span>
              <span
                v-if="l.rinse"
                class="do rinse"
                :style="{
                  left: `${l.rinse.start_m * scale}%`,
                  width: `${(l.rinse.end_m - l.rinse.start_m) * scale}%`,
                }"
                >rinse</span
              >
            </span>
          </div>
        </div>
        <ol>
          <li v-for="(s, i) in result.steps" :key="i">
            {{ s.start_m.toFixed(0) }} to {{ s.end_m.toFixed(0) }} min: {{ s.do
            }}{{ s.coil ? ` ${s.coil}` : '' }}
          </li>
        </ol>
      </template>
    </div>
  </div>
</template>

<style scoped>
.coil {
  display: grid;
  grid-template-columns: 1.2fr repeat(4, 1fr);
  gap: 0 8px;
  border-top: 1px solid var(--hairline);
  padding-top: 6px;
}
@media (max-width: 560px) {
  .coil {
    grid-template-columns: repeat(2, 1fr);
  }
}
.lane {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 6px 0;
}
.name {
  width: 90px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.track {
  position: relative;
  flex: 1;
  height: 30px;
  border-bottom: 1px solid var(--hairline);
}
.track span {
  position: absolute;
  top: 0;
  height: 29px;
  font-size: 12.5px;
  display: flex;
  align-items: center;
  justify-content: center;
  overflow: hidden;
}
.do {
  background: var(--petrol);
}
.rinse {
  background: var(--petrol-tint);
  color: var(--ink);
}
.dwell {
  background: var(--silt-1);
  color: var(--on-pale);
}
.link {
  min-height: 44px;
}
</style>
