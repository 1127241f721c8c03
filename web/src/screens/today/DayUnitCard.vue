<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import { visitJobWords } from '../../api/facts.gen'
import KeptPicture from '../../parts/KeptPicture.vue'
import {
  answerWords,
  duration,
  gradeNames,
  jobWords,
  percent,
  roleWords,
  shortDay,
  symptomWords,
  upperFirst,
} from '../../words'
import { type DayState, type DayUnit, isOver, progressWords, workAt } from './day'
import NotDone from './NotDone.vue'

/** One unit of the day: what is due and why, what to expect, what was left last time, what waits on it. */
const props = defineProps<{
  unit: DayUnit
  round: Schemas['Round']
  pack: Schemas['VisitPack'] | null
  bare?: boolean
}>()
const giving = ref(false)
const words: Record<DayState, string> = {
  open: '',
  begun: 'Begun, not sent',
  waiting: 'Done, not sent yet',
  ...progressWords,
}
/** Each job with what rides along. */
const jobs = computed(() =>
  props.unit.jobs.map((j) => ({
    job: j,
    text: [
      (j.coil_role ? `${roleWords[j.coil_role]}, ` : '') + jobWords[j.kind],
      ...j.riders.map((r) => `with ${jobWords[r.kind]}`),
    ].join(' '),
    why: j.reasons
      .filter((r, i) => i === 0 || r.code === 'job_plan')
      .map((r) => r.text)
      .join(' '),
  })),
)
const expected = computed(() => {
  const s = props.unit.jobs.map((j) => j.state).find((x) => x.known)
  if (!s) return ''
  const f = s.face_grade ?? 0
  const core = s.core_grade ?? 0
  return `face ${f} ${gradeNames[f]}, core ${core} ${gradeNames[core]}${s.core_seen ? '' : ' (nobody has seen it)'}, together ${percent(s.blocked_share ?? 0)} blocked`
})
const last = computed(() => props.pack?.unit.visits[0])
const lastText = computed(() => {
  const v = last.value
  if (!v) return ''
  const plan = v.treatments.map((t) =>
    [t.method.toLowerCase(), t.cleaner && `with ${t.cleaner.toLowerCase()}`, t.amount]
      .filter(Boolean)
      .join(' '),
  )
  const left = v.sides.flatMap((s) =>
    s.left ? [`${s.side} ${s.left.grade} ${gradeNames[s.left.grade]}`] : [],
  )
  const missed = v.sides.filter((s) => !s.reached).map((s) => `${s.side} not reached`)
  return [
    `${shortDay(v.day)}, ${v.people.join(', ') || 'nobody named'}`,
    plan.join(', then ') || 'no treatment',
    left.length ? `left ${left.join(', ')}` : '',
    ...missed,
  ]
    .filter(Boolean)
    .join('; ')
})
const needs = computed(() => [...new Set(props.unit.jobs.flatMap((j) => j.needs))].join(', '))
const over = computed(() => isOver(props.unit.state))
</script>

<template>
  <article :class="{ over }" :aria-label="unit.tag">
    <h3>
      <RouterLink :to="`/units/${unit.unit_id}`">{{ unit.tag }}</RouterLink>
      <span class="soft"> {{ unit.class }}, {{ unit.placement }}</span>
    </h3>
    <p v-if="words[unit.state]" class="state">
      <strong>{{ words[unit.state] }}</strong><template v-if="unit.why">: {{ unit.why }}</template>
    </p>
    <template v-if="!over">
      <p v-for="s in pack?.symptoms ?? []" :key="s.id" class="symptom">
        <strong>Reported {{ shortDay(s.day) }}: {{ symptomWords[s.kind as 'water'].toLowerCase() }}.</strong>
        {{ s.note }}
      </p>
      <p v-for="{ job, text, why } in jobs" :key="job.key">
        <strong>{{ upperFirst(text) }}</strong>, {{ duration(job.minutes)
        }}<template v-if="job.sides.length">: {{ job.sides.join(', ') }}</template
        >. <span class="soft">{{ why }}</span>
      </p>
      <dl>
        <template v-if="needs"
          ><dt>Needs</dt>
          <dd>{{ needs }}</dd></template
        >
        <template v-if="expected"
          ><dt>Expect</dt>
          <dd>{{ expected }}</dd></template
        >
        <template v-if="lastText"
          ><dt>Last time</dt>
          <dd>{{ lastText }}</dd></template
        >
        <template v-for="(a, i) in pack?.advised ?? []" :key="i">
          <dt>Advised</dt>
          <dd>
            {{ a.text }}
            <span class="soft">({{ shortDay(a.day) }}, {{ answerWords[a.answer].toLowerCase() }})</span>
          </dd>
        </template>
      </dl>
      <div v-for="w in pack?.watch ?? []" :key="w.id" class="watch">
        <p>
          Watch: {{ w.what }}<span v-if="w.side" class="soft">, {{ w.side }}</span>
        </p>
        <KeptPicture v-if="w.photos.length" :id="w.photos[w.photos.length - 1]!.id" :alt="w.what" />
      </div>
      <div v-if="!bare" class="row">
        <RouterLink class="big" :to="workAt(unit, round.id)">{{
          unit.state === 'begun'
            ? 'Continue'
            : `Start: ${unit.visit_for.map((v) => visitJobWords[v].toLowerCase()).join(', ')}`
        }}</RouterLink>
        <button type="button" class="quiet" :aria-expanded="giving" @click="giving = !giving">
          Not done …
        </button>
      </div>
      <NotDone v-if="giving" :unit="unit" :round="round" @done="giving = false" />
    </template>
  </article>
</template>

<style scoped>
article {
  border-top: 1px solid var(--hairline);
  padding: 10px 0;
}
h3 {
  margin: 0 0 4px;
  font-size: 17px;
}
h3 .soft {
  margin-left: 8px;
  font-weight: 400;
  font-size: 15px;
}
p {
  margin: 0 0 4px;
}
.symptom {
  border-left: 4px solid var(--danger);
  padding-left: 10px;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 14px;
  margin: 0 0 8px;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
.watch :deep(img) {
  max-width: 160px;
  display: block;
}
.row {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
.row .big {
  flex: 2;
  display: flex;
  align-items: center;
  justify-content: center;
  text-align: center;
  text-decoration: none;
}
.row .quiet {
  flex: 1;
}
</style>
