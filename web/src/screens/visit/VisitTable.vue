<script setup lang="ts">
import type { Schemas } from '../../api/client'
import SiltGrade from '../../parts/SiltGrade.vue'
import { figure } from '../../units'
import { directionWords, outcomeWords, roleWords, seenWords, shortDay } from '../../words'

/** What visits found, did and left; one line a side. */
withDefaults(defineProps<{ visits: Schemas['VisitSummary'][]; units?: boolean }>(), { units: false })

const how = (t: Schemas['TreatmentLine']) =>
  [
    t.dwell_s !== undefined && `stood ${Math.round(t.dwell_s / 60)} min`,
    t.tip,
    t.setting,
    t.end_points.includes('foam_white_still') && 'foam white and still',
  ]
    .filter(Boolean)
    .join(', ')
const mix = (t: Schemas['TreatmentLine']) =>
  [
    t.cleaner && `${t.cleaner.toLowerCase()}${t.water_parts !== undefined ? ` ${t.water_parts}:1` : ''}`,
    t.amount_l === undefined ? t.amount : figure('L', t.amount_l),
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <div class="scroll-x">
    <table class="lines">
      <thead>
        <tr>
          <th scope="col">Day</th>
          <th v-if="units" scope="col">Unit</th>
          <th scope="col">Side</th>
          <th scope="col">Found</th>
          <th scope="col">Left</th>
          <th scope="col">Seen by</th>
          <th scope="col">Work</th>
          <th scope="col" class="number">Minutes</th>
          <th scope="col">Who</th>
        </tr>
      </thead>
      <tbody v-for="v in visits" :key="v.id">
        <tr v-if="!v.sides.length">
          <td class="nowrap">
            <RouterLink :to="`/visits/${v.id}`">{{ shortDay(v.day) }}</RouterLink>
          </td>
          <td v-if="units">
            <RouterLink :to="`/units/${v.unit_id}`">{{ v.tag }}</RouterLink>
          </td>
          <td colspan="5">{{ outcomeWords[v.outcome] }}{{ v.note ? `: ${v.note}` : '' }}</td>
          <td class="number">{{ v.minutes || '–' }}</td>
          <td>{{ v.people.join('; ') }}</td>
        </tr>
        <tr v-for="(s, i) in v.sides" :key="s.coil_role + s.side" :class="{ follows: i > 0 }">
          <td class="nowrap">
            <RouterLink v-if="i === 0" :to="`/visits/${v.id}`">{{ shortDay(v.day) }}</RouterLink>
          </td>
          <td v-if="units" class="nowrap">
            <RouterLink v-if="i === 0" :to="`/units/${v.unit_id}`">{{ v.tag }}</RouterLink>
          </td>
          <td class="nowrap">{{ roleWords[s.coil_role] }}, {{ s.side }}</td>
          <template v-if="s.reached">
            <td><SiltGrade v-if="s.found" :grade="s.found.grade" name /></td>
            <td><SiltGrade v-if="s.left" :grade="s.left.grade" name /></td>
            <td class="nowrap">{{ s.found ? seenWords[s.found.seen] : '' }}</td>
          </template>
          <td v-else colspan="3" class="over">not reached: {{ s.why_not }}</td>
          <td>
            <template v-if="i === 0">
              <div v-for="(t, k) in v.treatments" :key="k">
                {{ k + 1 }} {{ t.taken_out ? 'taken out: ' : '' }}{{ t.method.toLowerCase() }} ({{ t.work }}),
                {{ directionWords[t.direction] }}<span v-if="mix(t)" class="soft">; {{ mix(t) }}</span
                ><span v-if="how(t)" class="soft">; {{ how(t) }}</span
                ><span v-if="t.after" class="soft">; then <SiltGrade :grade="t.after.grade" /></span>
              </div>
              <div v-if="!v.treatments.length" class="soft">inspection only</div>
              <div v-if="v.note" class="soft">{{ v.note }}</div>
            </template>
          </td>
          <td class="number">{{ i === 0 ? v.minutes : '' }}</td>
          <td>{{ i === 0 ? v.people.join('; ') : '' }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
td {
  font-size: 14px;
}
.follows td {
  padding-top: 2px;
}
tbody tr:not(:last-child) td {
  border-bottom-color: transparent;
}
</style>
