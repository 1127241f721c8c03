<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import {
  passSides,
  passStops,
  passTips,
  planContain,
  planDispose,
  planNotes,
  planThen,
} from '../api/facts.gen'
import { session } from '../session'
import { figure } from '../units'
import { count, gradeNames } from '../words'
import SiltGrade from './SiltGrade.vue'

/** Work plans in their order, each with its passes and what is to be expected, and all that is ruled out with its rule. */
const props = defineProps<{
  advice: Schemas['MethodAdvice']
  chosen?: string
  sprayers?: Schemas['SprayerChoice'][]
  cleaners?: Schemas['CleanerFacts'][]
}>()
const aside = defineModel<Record<string, string>>('aside', { default: () => ({}) })
const emit = defineEmits<{ choose: [Schemas['WorkPlan']] }>()

const few = 3
const all = ref(false)
const shown = computed(() => (all.value ? props.advice.plans : props.advice.plans.slice(0, few)))
const keyOf = (p: Schemas['WorkPlan']) =>
  p.passes.map((x) => `${x.method} ${x.cleaner ?? ''} ${x.where}`).join(', ')
const isChosen = (p: Schemas['WorkPlan']) => props.chosen === keyOf(p)
const minutes = (s: number) => Number((s / 60).toPrecision(2))
const ratio = (parts: number) => `${Number(parts.toPrecision(3))}:1`

type Pass = Schemas['WorkPass']
function amount(x: Pass): string {
  if (x.cans) return `${count(x.cans, 'can')}`
  if (!x.cleaner || !x.amount_l) return ''
  if (x.water_parts !== undefined && x.mix_l)
    return `${ratio(x.water_parts)} water to cleaner: ${figure('L', x.amount_l)} in ${figure('L', x.mix_l)} of mix`
  return `${figure('L', x.amount_l)} undiluted`
}
const tankMethods = ['tank_sprayer', 'bagged_wash', 'wall_washer']
/** The settings of the sprayers at hand that come nearest to a strength, never outside what the label allows, and the fills of a tank. */
function dial(x: Pass): string {
  if (x.water_parts === undefined || !x.mix_l) return ''
  const k = props.cleaners?.find((c) => c.code === x.cleaner)
  const by = new Map<string, Schemas['SprayerChoice']>()
  const tank = tankMethods.includes(x.method)
  for (const s of props.sprayers ?? []) {
    if (!!s.tank_l !== tank) continue
    if (k && (s.water_parts < (k.parts_from ?? 0) || s.water_parts > (k.parts_to ?? Infinity))) continue
    const off = (c: Schemas['SprayerChoice']) =>
      Math.abs(Math.log((c.water_parts + 1) / (x.water_parts! + 1)))
    const was = by.get(s.sprayer)
    if (!was || off(s) < off(was)) by.set(s.sprayer, s)
  }
  const nearest = [...by.values()]
    .map(
      (s) =>
        `${s.sprayer} at ${s.name} (${ratio(s.water_parts)}${s.tank_l ? `, ${count(Math.ceil(x.mix_l! / s.tank_l), 'fill')}` : ''})`,
    )
    .join(' or ')
  return nearest && `nearest setting: ${nearest}`
}
function details(x: Pass): string {
  return [
    amount(x),
    dial(x),
    x.dwell_max_s ? `stands ${minutes(x.dwell_min_s ?? 0)} to ${minutes(x.dwell_max_s)} min` : '',
    x.cleaner && x.side ? (passSides[x.side] ?? '') : '',
    x.rinse_l ? `about ${figure('L', x.rinse_l, 2)} of water` : '',
    x.tip ? (passTips[x.tip] ?? '') : '',
    passStops[x.stop_when] ?? '',
  ]
    .filter(Boolean)
    .join('; ')
}
const movedAt = (p: Schemas['WorkPlan'], i: number) =>
  p.passes[i]!.where === 'taken_out' && (i === 0 || p.passes[i - 1]!.where === 'in_place')

const groups = computed(() => {
  const by = new Map<string, { ban: Schemas['Ban']; names: string[] }>()
  for (const r of props.advice.ruled_out) {
    const g = by.get(r.ban.code) ?? { ban: r.ban, names: [] }
    const name = [r.method_name, r.cleaner_name].filter(Boolean).join(' with ')
    const placed = name && r.where === 'taken_out' ? `${name}, taken out` : name
    if (placed && !g.names.includes(placed)) g.names.push(placed)
    by.set(r.ban.code, g)
  }
  return [...by.values()].sort((a, b) => Number(a.ban.hard) - Number(b.ban.hard))
})
const assumedWords: Record<string, string> = {
  setting: 'indoors, as the place is not stated',
  construction: 'the stricter half of the rules, as the coil’s make is not stated',
  role: 'the stricter half of the rules, as it is not stated what the coil does',
  flammability: 'a refrigerant that burns, as nobody has said that it does not',
  water: 'no running water, as nobody has said whether there is any',
  face_area: 'a usual face area',
  deep_minutes: 'usual minutes',
  core: 'a core as this soil usually leaves it',
}
const assumed = computed(() =>
  props.advice.assumed.filter((a) => !a.startsWith('price of ')).map((a) => assumedWords[a] ?? a),
)
const typing = ref<Record<string, string>>({})
function setAside(code: string) {
  const why = (typing.value[code] ?? '').trim()
  if (why) aside.value = { ...aside.value, [code]: why }
}
function takeBack(code: string) {
  aside.value = Object.fromEntries(Object.entries(aside.value).filter(([k]) => k !== code))
}
</script>

<template>
  <p v-if="advice.leave" class="notice">
    This coil needs nothing: it is below the limit. Look again at the next visit.
  </p>
  <p v-if="assumed.length" class="soft">Assumed: {{ assumed.join('; ') }}.</p>
  <p v-if="!advice.plans.length" class="notice danger">
    Nothing is allowed here; see what is ruled out and why.
  </p>
  <p v-for="t in advice.then" :key="t" class="then">{{ planThen[t] ?? t }}</p>
  <ol class="plans">
    <li v-for="(p, i) in shown" :key="keyOf(p)" :class="{ on: isChosen(p) }">
      <div class="top">
        <span v-if="i === 0" class="best">{{ p.enough ? 'First choice' : 'Best there is' }}</span>
        <span v-else class="soft">Or</span>
        <span>leaves <SiltGrade :grade="p.left_grade" /> {{ gradeNames[p.left_grade] }}</span>
        <span v-if="!p.enough" class="over">not enough by your rule</span>
        <span>{{ Math.round(p.minutes) }} min{{ p.people > 1 ? ` for ${p.people}` : '' }}</span>
        <span>{{ p.cost.toFixed(2) }} {{ session?.currency }}</span>
      </div>
      <ol class="passes">
        <li v-for="(x, k) in p.passes" :key="k">
          <strong v-if="movedAt(p, k)">Taken out: </strong>
          <strong>{{ x.method_name }}{{ x.cleaner_name ? `, ${x.cleaner_name.toLowerCase()}` : '' }}</strong>
          <div v-if="details(x)" class="soft">{{ details(x) }}</div>
        </li>
      </ol>
      <p v-if="p.protection.length" class="soft">Wear: {{ p.protection.join(', ') }}.</p>
      <details>
        <summary>Kit, containment, disposal, notes</summary>
        <p>Kit: {{ p.kit.join(', ') || 'nothing special' }}.</p>
        <p>
          {{ planContain[p.contain]
          }}<template v-if="p.buckets"> {{ count(p.buckets, 'bucket') }} of 10 L.</template>
          {{ planDispose[p.dispose] }}
        </p>
        <p v-for="n in p.notes" :key="n">{{ planNotes[n] }}</p>
        <p v-if="p.overridden?.length" class="over">House rules overridden: {{ p.overridden.length }}.</p>
      </details>
      <button
        v-if="chosen !== undefined"
        type="button"
        class="plain-button"
        :aria-pressed="isChosen(p)"
        @click="emit('choose', p)"
      >
        {{ isChosen(p) ? 'Chosen' : 'Choose' }}
      </button>
    </li>
  </ol>
  <button v-if="advice.plans.length > few" type="button" class="link more" @click="all = !all">
    {{ all ? 'Show the first ones only' : `Show all ${advice.plans.length}` }}
  </button>
  <details class="out">
    <summary>Ruled out, and by which rule ({{ groups.length }} rules)</summary>
    <ul>
      <li v-for="g in groups" :key="g.ban.code">
        <strong>{{ g.ban.text }}</strong>
        <span class="soft">{{ g.ban.hard ? ' Always.' : ' House rule.' }}</span>
        <div v-if="g.names.length" class="soft">{{ g.names.join('; ') }}</div>
        <div v-if="!g.ban.hard && chosen !== undefined" class="aside">
          <template v-if="aside[g.ban.code]"
            >Override: {{ aside[g.ban.code] }}
            <button type="button" class="link" @click="takeBack(g.ban.code)">undo</button></template
          >
          <template v-else>
            <input
              v-model="typing[g.ban.code]"
              class="plain-input"
              maxlength="500"
              :aria-label="`Why the rule is overridden: ${g.ban.text}`"
              placeholder="why it is overridden here"
            />
            <button type="button" class="plain-button" @click="setAside(g.ban.code)">Override</button>
          </template>
        </div>
      </li>
    </ul>
    <p v-for="(why, code) in aside" :key="code" class="soft">
      Override: {{ why }}
      <button type="button" class="link" @click="takeBack(String(code))">undo</button>
    </p>
  </details>
</template>

<style scoped>
.plans,
.passes {
  padding: 0;
  margin: 0 0 8px;
}
.plans {
  list-style: none;
}
.plans > li {
  border-top: 1px solid var(--hairline);
  padding: 9px 0 9px 10px;
  border-left: 4px solid transparent;
}
.plans > li.on {
  border-left-color: var(--petrol);
  background: var(--petrol-tint);
}
.passes {
  padding-left: 22px;
  margin: 6px 0;
}
.passes li {
  margin-bottom: 3px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}
.best {
  color: var(--petrol);
  font-weight: 600;
}
.then {
  font-weight: 600;
}
summary {
  cursor: pointer;
  min-height: 44px;
  display: flex;
  align-items: center;
  color: var(--petrol);
}
.plain-button[aria-pressed='true'] {
  background: var(--petrol);
  color: var(--paper);
}
.more,
.link {
  min-height: 44px;
}
.out ul {
  padding-left: 18px;
  margin: 4px 0;
}
.out li {
  margin-bottom: 8px;
}
.aside {
  display: flex;
  gap: 8px;
  margin-top: 4px;
  align-items: center;
  flex-wrap: wrap;
}
.aside .plain-input {
  flex: 1;
  min-width: 180px;
}
</style>
