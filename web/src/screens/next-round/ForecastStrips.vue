<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, nextTick, ref, toRef } from 'vue'

import type { Schemas } from '../../api/client'
import SiltGrade from '../../parts/SiltGrade.vue'
import { mayManageHouse, session } from '../../session'
import { count, gradeNames, jobWords, percent, shortDay } from '../../words'
import { addDays, daysBetween, useMoves } from './useMoves'

/** Soil week by week, a row to a site, unfolded to its coils; each planned clean is a notch that can be moved. */
const props = defineProps<{ forecast: Schemas['PlanForecast']; keeping: boolean }>()
const emit = defineEmits<{ keep: [moves: { key: string; day: string }[]] }>()

const { sites, load, steps, refused, trying, adds, moves, tryDay, settle, cancel, undo } = useMoves(
  toRef(props, 'forecast'),
)
const open = ref(new Set<string>())
function toggle(id: string) {
  const next = new Set(open.value)
  if (!next.delete(id)) next.add(id)
  open.value = next
}
const start = computed(() => props.forecast.weeks[0] ?? '')
const days = computed(() => props.forecast.weeks.length * 7)
const at = (day: string) => `${(100 * daysBetween(start.value, day)) / days.value}%`

const byWeek = computed(() =>
  props.forecast.weeks.map((from) => {
    const all = load.value.filter((l) => l.from === from)
    const planned = all.reduce((s, l) => s + l.planned_minutes, 0)
    const shift = all.reduce((s, l) => s + l.shift_minutes, 0)
    return { from, planned, shift, share: shift ? planned / shift : 0 }
  }),
)
const hours = (m: number) => (m / 60).toFixed(1)
const money = (v: number) => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(2)} ${session.value?.currency ?? ''}`

/** The cleans of all coils of a site, for the folded row; those of one day stand as one. */
const notchesOf = (s: Schemas['ForecastSite']) => {
  const days = new Map<string, number>()
  for (const c of s.coils) for (const n of c.notches) days.set(n.day, (days.get(n.day) ?? 0) + 1)
  return [...days].map(([day, n]) => ({ day, n }))
}

let drag: { key: string; x: number; width: number; from: string; moved: boolean } | null = null
function down(e: PointerEvent, n: Schemas['Notch']) {
  if (!mayManageHouse() || e.button !== 0) return
  const row = (e.currentTarget as HTMLElement).parentElement!
  drag = { key: n.key, x: e.clientX, width: row.clientWidth, from: n.day, moved: false }
  ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
}
function move(e: PointerEvent) {
  if (!drag) return
  const d = Math.round(((e.clientX - drag.x) / drag.width) * days.value)
  const day = clamped(addDays(drag.from, d))
  if (day === (trying.value?.day ?? drag.from)) return
  drag.moved = true
  void tryDay(drag.key, day)
}
async function up() {
  const d = drag
  drag = null
  if (!d?.moved) return
  await tryDay(d.key, trying.value?.day ?? d.from)
  settle()
}
const clamped = (day: string) => {
  const last = addDays(start.value, days.value - 1)
  return day < start.value ? start.value : day > last ? last : day
}
async function keys(e: KeyboardEvent, n: Schemas['Notch']) {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (by && mayManageHouse()) {
    e.preventDefault()
    const day = clamped(addDays(n.day, by * (e.shiftKey ? 7 : 1)))
    const button = e.currentTarget as HTMLElement
    await tryDay(n.key, day)
    settle()
    await nextTick()
    button.focus()
  } else if (e.key === 'Escape') cancel()
  else if (e.key === 'z' && (e.ctrlKey || e.metaKey)) {
    e.preventDefault()
    undo()
  }
}
const said = (n: Schemas['Notch'], c: Schemas['ForecastCoil']) =>
  `${c.tag} ${jobWords[n.kind]}, ${shortDay(n.day)}, ${n.crew}, due ${shortDay(n.due)}${n.status === 'published' ? ', published' : ''}`
</script>

<template>
  <section class="strips" aria-labelledby="strips-head">
    <div class="head">
      <h2 id="strips-head">Soil forecast, the worst coil of each site, week by week</h2>
      <span class="key"><SiltGrade v-for="g in 6" :key="g" :grade="g - 1" name /></span>
    </div>
    <p class="soft hint">
      A notch is a planned clean.
      <template v-if="mayManageHouse()"
        >Unfold a site and drag one, or use ← and → (with Shift by weeks); colour, money and crew hours follow
        at once.</template
      >
    </p>
    <div v-if="steps.length || trying || refused" class="draft" role="status">
      <strong v-if="steps.length || trying">{{ money(adds) }}</strong>
      <span v-if="steps.length">
        for {{ count(moves.length, 'notch', 'notches') }} moved, not kept yet.
      </span>
      <span v-else-if="trying"> on {{ shortDay(trying.day) }} </span>
      <span v-if="refused" class="over">{{ refused }}</span>
      <span class="buttons">
        <ElButton v-if="steps.length" size="small" @click="undo">Undo</ElButton>
        <ElButton
          v-if="steps.length"
          size="small"
          type="primary"
          :loading="keeping"
          @click="emit('keep', moves)"
          >Keep the moves</ElButton
        >
      </span>
    </div>
    <div class="grid" :style="{ '--weeks': forecast.weeks.length }">
      <span></span>
      <span class="weeks" aria-hidden="true">
        <span v-for="w in forecast.weeks" :key="w">{{ shortDay(w).replace(/ \d{4}$/, '') }}</span>
      </span>
      <span v-if="load.length" class="name soft"
        >Hours, of {{ hours(Math.max(...byWeek.map((w) => w.shift), 0)) }} a week</span
      >
      <span v-if="load.length" class="weeks load">
        <span
          v-for="w in byWeek"
          :key="w.from"
          :class="{ full: w.share > 1 }"
          :title="`${shortDay(w.from)}: ${hours(w.planned)} h of ${hours(w.shift)} h`"
        >
          <i :style="{ height: `${Math.min(26, 26 * w.share)}px` }"></i>
          <b>{{ hours(w.planned) }}</b>
        </span>
      </span>
      <template v-for="s in sites" :key="s.site_id">
        <button
          type="button"
          class="name fold"
          :aria-expanded="open.has(s.site_id)"
          @click="toggle(s.site_id)"
        >
          {{ s.site }}
        </button>
        <span class="weeks row">
          <span
            v-for="(g, w) in s.grades"
            :key="w"
            class="cell"
            :class="`g${g}`"
            :title="`${s.site}, week of ${shortDay(forecast.weeks[w] ?? '')}: ${gradeNames[g]}`"
            >{{ g }}</span
          >
          <i
            v-for="n in notchesOf(s)"
            :key="n.day"
            class="mark"
            :style="{ left: at(n.day) }"
            :title="`${shortDay(n.day)}: ${count(n.n, 'clean')}`"
          ></i>
        </span>
        <template v-if="open.has(s.site_id)">
          <template v-for="c in s.coils" :key="c.coil_id">
            <span class="name coil"
              ><RouterLink :to="`/units/${c.unit_id}`">{{ c.tag }}</RouterLink>
              <span class="soft">{{ c.role.slice(0, 4) }}.</span></span
            >
            <span class="weeks row thin">
              <template v-if="c.known">
                <span
                  v-for="(g, w) in c.grades"
                  :key="w"
                  class="cell"
                  :class="`g${g}`"
                  :title="`${c.tag}, week of ${shortDay(forecast.weeks[w] ?? '')}: ${percent(c.weeks[w] ?? 0)} blocked`"
                  >{{ g }}</span
                >
              </template>
              <span v-else class="unknown soft">nothing known of it yet: a first look is due</span>
              <button
                v-for="n in c.notches"
                :key="n.key"
                type="button"
                class="notch"
                :class="{
                  deep: n.kind === 'deep',
                  out: n.status === 'published',
                  moving: trying?.key === n.key,
                }"
                :style="{ left: at(n.day) }"
                :aria-label="said(n, c)"
                :title="said(n, c)"
                :data-key="n.key"
                @pointerdown="down($event, n)"
                @pointermove="move"
                @pointerup="up"
                @pointercancel="up"
                @keydown="keys($event, n)"
              ></button>
            </span>
          </template>
        </template>
      </template>
    </div>
  </section>
</template>

<style scoped>
.strips {
  margin-top: 26px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 4px 18px;
  align-items: baseline;
}
.head h2 {
  font-size: 15px;
}
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 13.5px;
}
.hint {
  margin: 2px 0 6px;
  font-size: 13.5px;
}
.draft {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  border-top: 1px solid var(--petrol);
  border-bottom: 1px solid var(--petrol);
  padding: 6px 0;
  margin: 6px 0 8px;
}
.buttons {
  margin-left: auto;
}
.grid {
  display: grid;
  grid-template-columns: 170px minmax(0, 1fr);
  row-gap: 2px;
  align-items: center;
}
.weeks {
  display: grid;
  grid-template-columns: repeat(var(--weeks), minmax(0, 1fr));
  position: relative;
  font-size: 12.5px;
}
.weeks > span {
  padding-left: 2px;
  white-space: nowrap;
  overflow: hidden;
}
.name {
  font-size: 14px;
  text-align: left;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  padding-right: 8px;
}
.fold {
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 14px;
  cursor: pointer;
  padding: 2px 8px 2px 0;
}
.fold::before {
  content: '▸ ';
}
.fold[aria-expanded='true']::before {
  content: '▾ ';
}
.coil .soft {
  margin-left: 5px;
}
.coil {
  padding-left: 18px;
  font-size: 13.5px;
}
.load {
  height: 44px;
  border-bottom: 1px solid var(--hairline);
  margin-bottom: 4px;
}
.load > span {
  position: relative;
  border-top: 1px dashed var(--ink-soft);
}
.load i {
  position: absolute;
  left: 2px;
  right: 4px;
  bottom: 0;
  background: var(--petrol-tint);
  border-top: 2px solid var(--petrol);
}
.load .full i {
  background: var(--danger);
  border-color: var(--danger);
}
.load b {
  position: absolute;
  left: 3px;
  top: 0;
  font-weight: 600;
}
.row {
  height: 24px;
}
.thin {
  height: 24px;
}
.cell {
  line-height: 22px;
  height: 22px;
  border-right: 1px solid var(--paper);
  text-align: right;
  padding-right: 5px;
  font-variant-numeric: tabular-nums;
}
.thin .cell {
  font-size: 11.5px;
}
.unknown {
  grid-column: 1 / -1;
  line-height: 22px;
}
.mark {
  position: absolute;
  top: 0;
  width: 0;
  height: 0;
  border-left: 5px solid transparent;
  border-right: 5px solid transparent;
  border-top: 7px solid var(--petrol);
  transform: translateX(-1px);
  pointer-events: none;
}
.notch {
  position: absolute;
  top: -1px;
  width: 24px;
  height: 24px;
  margin-left: -12px;
  padding: 0;
  border: 0;
  background: none;
  cursor: grab;
  touch-action: none;
}
.notch::before {
  content: '';
  position: absolute;
  left: 10px;
  top: 0;
  bottom: 0;
  border-left: 4px solid var(--petrol);
  outline: 1px solid var(--paper);
}
.notch.deep::after {
  content: '';
  position: absolute;
  left: 5px;
  top: 0;
  border-left: 7px solid transparent;
  border-right: 7px solid transparent;
  border-top: 9px solid var(--petrol);
}
.notch.out::before {
  border-left-color: var(--ink);
}
.notch.moving {
  cursor: grabbing;
}
.notch:focus-visible {
  outline: 2px solid var(--petrol);
}
@media (max-width: 800px) {
  .grid {
    grid-template-columns: 110px minmax(560px, 1fr);
  }
  .strips {
    overflow-x: auto;
  }
}
</style>
