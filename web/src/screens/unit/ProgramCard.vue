<script setup lang="ts">
import { computed } from 'vue'

import { type Schemas } from '../../api/client'
import { session } from '../../session'
import { planWords } from './planWords'
import { dayOf, longDay, lookKindWords, percent, shortDay } from '../../words'

/** Work plan, interval and first clean as one decision, each kind of money apart, beside what is in force. */
const props = defineProps<{ program: Schemas['Program'] }>()

type Kept = Schemas['KeptCost']

const money = (v: number) => v.toFixed(0)
const days = (v: number) => `${v.toFixed(0)} d`
const spent = (k: Kept) => k.cleaning_year + k.energy_year + k.calls_year
const columns = computed(() => {
  const out: { title: string; kept: Kept }[] = []
  if (props.program.in_force) out.push({ title: 'In force', kept: props.program.in_force })
  if (props.program.change || !props.program.in_force)
    out.push({ title: 'Cheapest', kept: props.program.best })
  return out
})
/** The way of finding out that is worth most, where one is. */
const worth = computed(() => {
  const best = props.program.looks?.[0]
  return best && best.net_riding >= 0.5 ? best : null
})
const rows = [
  { name: 'Cleaning', of: (k: Kept) => money(k.cleaning_year) },
  { name: 'Energy lost to soil', of: (k: Kept) => money(k.energy_year) },
  { name: 'Expected call-outs', of: (k: Kept) => money(k.calls_year) },
]
/** A day of a year of 365, 0 is 1 January. */
const yearDay = (n: number) => shortDay(dayOf(Date.UTC(2026, 0, 1 + n))).replace(/ 2026$/, '')
const light = (k: Kept) =>
  k.light && k.light_every_days ? `${planWords(k.light)}, every ${k.light_every_days} d` : 'None'
const answer = computed(() => {
  const p = props.program
  const now = p.in_force
  if (!now || !p.change) return 'No other work plan or interval surely costs less: keep what is in force.'
  const less = spent(now) - spent(p.best)
  const cost =
    Math.abs(less) < 0.5
      ? 'Costs the same'
      : `${less > 0 ? 'Saves' : 'Costs'} ${money(Math.abs(less))} ${session.value?.currency ?? ''} a year`
  return `${cost}, with ${days(p.best.over_days_year)} instead of ${days(now.over_days_year)} a year over the limit.`
})
</script>

<template>
  <section class="program" aria-label="Work plan and interval">
    <p class="answer">{{ answer }}</p>
    <table class="lines">
      <thead>
        <tr>
          <th scope="col">A year, {{ session?.currency }}</th>
          <th v-for="c in columns" :key="c.title" scope="col" class="number">{{ c.title }}</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">Work plan</th>
          <td v-for="c in columns" :key="c.title">{{ planWords(c.kept.plan) }}</td>
        </tr>
        <tr>
          <th scope="row">Every</th>
          <td v-for="c in columns" :key="c.title" class="number">
            <strong>{{ c.kept.every_days }} d</strong>
            <template v-if="c.kept.days"><br />{{ c.kept.days.map(yearDay).join(', ') }}</template>
          </td>
        </tr>
        <tr v-if="columns.some((c) => c.kept.light)">
          <th scope="row">Light clean in between</th>
          <td v-for="c in columns" :key="c.title">{{ light(c.kept) }}</td>
        </tr>
        <tr v-for="r in rows" :key="r.name">
          <th scope="row">{{ r.name }}</th>
          <td v-for="c in columns" :key="c.title" class="number">{{ r.of(c.kept) }}</td>
        </tr>
        <tr class="sum">
          <th scope="row">Together</th>
          <td v-for="c in columns" :key="c.title" class="number">{{ money(spent(c.kept)) }}</td>
        </tr>
        <tr>
          <th scope="row">of which assumed</th>
          <td v-for="c in columns" :key="c.title" class="number">{{ percent(c.kept.assumed_share) }}</td>
        </tr>
        <tr>
          <th scope="row">Days over the limit</th>
          <td v-for="c in columns" :key="c.title" class="number">
            {{ days(c.kept.over_days_year) }} ({{ percent(c.kept.over_days_year / 365) }})
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="program.change">
      First clean by <strong>{{ longDay(program.first.day) }}</strong><template
        v-if="program.first.brings_down"
        >, this once: {{ planWords(program.first.plan).toLowerCase() }}, to bring the coil down</template
      >.
    </p>
    <p v-if="worth">
      {{ lookKindWords[worth.kind] }} is worth
      <strong>{{ money(worth.net_riding) }} {{ session?.currency }}</strong> a year where a crew is there
      anyway ({{ worth.minutes_riding.toFixed(0) }} min, its cost taken off){{
        worth.net_alone > 0
          ? `, and ${money(worth.net_alone)} with a trip of its own`
          : '; a trip of its own would not pay'
      }}.
    </p>
    <p v-if="program.over_price !== undefined && !program.over_share_held" class="over">
      No work plan keeps it within the share of days that the house allows.
    </p>
    <details>
      <summary>How this is calculated</summary>
      <p>
        Over the next three years, begun with a clean, on average over everything that is believed of its rate
        and of the soil in its core. Cheaper than what is in force in {{ percent(program.better_share) }} of
        it; the difference is {{ money(program.saves_year) }} ± {{ money(program.saves_sd_year) }} a year, the
        price of days over the limit counted ({{ money(columns[0].kept.over_price_year) }} in force).
        <template v-if="program.over_price !== undefined"
          >To stay within the house’s share of days over the limit, such a day is priced at
          {{ program.over_price.toFixed(2) }} {{ session?.currency }} here.</template
        >
      </p>
      <table class="lines">
        <caption>
          The cheapest with each work plan
        </caption>
        <thead>
          <tr>
            <th scope="col">Work plan</th>
            <th scope="col" class="number">Every</th>
            <th scope="col" class="number">A year</th>
            <th scope="col" class="number">Over the limit</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(k, i) in program.table" :key="i">
            <td>
              {{ planWords(k.plan)
              }}<template v-if="k.light_every_days">, light clean every {{ k.light_every_days }} d</template>
            </td>
            <td class="number nowrap">{{ k.every_days }} d</td>
            <td class="number">{{ money(spent(k)) }}</td>
            <td class="number nowrap">{{ days(k.over_days_year) }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
.answer {
  margin: 4px 0;
  font-weight: 600;
}
.sum th,
.sum td {
  border-top: 1px solid var(--ink);
}
.program th,
.program td {
  vertical-align: top;
}
.program th {
  font-weight: 400;
}
.program .number {
  text-align: right;
}
details {
  margin: 6px 0;
}
caption {
  text-align: left;
  padding: 6px 0 2px;
}
</style>
