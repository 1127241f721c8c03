<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { partWords, visitJobWords } from '../../api/facts.gen'
import SiltGrade from '../../parts/SiltGrade.vue'
import { readingFigure } from '../../units'
import { answerWords, moment, verdictWords, watchWords } from '../../words'
import { phaseWords } from '../led/ledVisit'

/** What a led visit holds beside its findings and treatments. */
const props = defineProps<{ record: Schemas['VisitRecord'] }>()
const v = computed(() => props.record.visit)
const skipped = computed(() => props.record.steps.filter((s) => s.state === 'skipped'))
const volts = computed(() => {
  const i = v.value.isolation
  return i
    ? (
        [
          ['L1–L2', i.l1_l2_v],
          ['L1–ground', i.l1_ground_v],
          ['L2–ground', i.l2_ground_v],
        ] as [string, number | undefined][]
      )
        .filter(([, x]) => x !== undefined)
        .map(([pair, x]) => `${pair} ${String(x)} V`)
        .join(', ')
    : ''
})
const any = computed(
  () =>
    props.record.steps.length +
      props.record.readings.length +
      (v.value.advised?.length ?? 0) +
      (v.value.surfaces?.length ?? 0) +
      (v.value.parts?.length ?? 0) +
      (v.value.new_watch?.length ?? 0) +
      Object.keys(v.value.choices ?? {}).length >
    0,
)
</script>

<template>
  <template v-if="any">
    <p v-if="v.jobs?.length" class="soft">For: {{ v.jobs.map((j) => visitJobWords[j]).join(', ') }}.</p>
    <fieldset v-if="v.parts?.length || v.new_watch?.length" class="part">
      <legend>Parts noted, and what is watched from now on</legend>
      <p v-for="(p, i) in v.parts ?? []" :key="`p${i}`">
        {{ p.kind }}: {{ p.specification }}{{ p.quantity > 1 ? ` × ${p.quantity}` : '' }}
      </p>
      <p v-for="(w, i) in v.new_watch ?? []" :key="`w${i}`">Watch: {{ w.what }}</p>
    </fieldset>
    <fieldset v-if="v.surfaces?.length" class="part">
      <legend>Wheel, pan and filter</legend>
      <p v-for="p in v.surfaces" :key="p.part">
        {{ partWords[p.part] }}: found <SiltGrade :grade="p.grade" name /><template
          v-if="p.left !== undefined"
          >, left <SiltGrade :grade="p.left" name /></template
        ><template v-else>, not cleaned</template>
      </p>
    </fieldset>
    <fieldset v-if="Object.keys(v.choices ?? {}).length" class="part">
      <legend>How it was done</legend>
      <p v-for="c in record.choices ?? []" :key="c.question">{{ c.question }}: {{ c.answer }}</p>
    </fieldset>
    <fieldset v-if="record.readings.length" class="part">
      <legend>Readings</legend>
      <p v-if="record.proof">
        <strong v-if="record.proof.judged"
          >{{ record.proof.fell_k.toFixed(1) }} K closer to ambient than before: about
          {{ Math.round(100 * record.proof.energy_share) }} % less energy for the same cooling.</strong
        ><template v-else
          >Before and after do not compare:
          {{ record.proof.reasons.map((r) => r.names?.why).join('; ') }}.</template
        >
      </p>
      <table class="lines">
        <tbody>
          <tr v-for="(r, i) in record.readings" :key="i">
            <td>{{ r.phase }}</td>
            <td>{{ r.name }}</td>
            <td class="number">{{ readingFigure(r.kind, r.value, r.unit) }}</td>
            <td :class="{ over: r.verdict === 'fail' }">{{ verdictWords[r.verdict] }}</td>
            <td class="soft">{{ r.text }} {{ r.cause ? `Cause: ${r.cause}.` : '' }}</td>
          </tr>
        </tbody>
      </table>
    </fieldset>
    <fieldset v-if="v.isolation" class="part">
      <legend>Isolation</legend>
      <p>
        <template v-if="v.isolation.means === 'plug' && v.isolation.secured === 'plug_in_hand'"
          >Unplugged, the plug in the hand or in sight</template
        ><template v-else
          >{{ v.isolation.point }}, {{ v.isolation.means }},
          {{ v.isolation.secured === 'not' ? 'not secured' : v.isolation.secured.replaceAll('_', ' ') }};
          {{ volts || 'no voltage read' }}</template
        >{{ v.isolation.discharged ? '; discharged' : ''
        }}{{ v.isolation.meter_tried ? ', meter tried on a live source before and after' : ''
        }}<template v-if="v.isolation.at">; {{ moment(v.isolation.at) }}</template
        >.
      </p>
    </fieldset>
    <fieldset v-if="record.steps.length" class="part">
      <legend>Steps</legend>
      <p>
        {{ record.steps.length - skipped.length }} done, {{ skipped.length }} skipped<template
          v-if="v.procedure_version"
        >
          (procedure version {{ v.procedure_version }})</template
        >.
      </p>
      <ul v-if="skipped.length">
        <li v-for="s in skipped" :key="s.step">
          <strong :class="{ over: s.gate }">{{ s.gate ? 'Gate skipped' : 'Skipped' }}:</strong> {{ s.text
          }}<template v-if="s.reason">; {{ s.reason }}</template>
        </li>
      </ul>
      <details>
        <summary>All steps</summary>
        <ol>
          <li v-for="s in record.steps" :key="s.step">
            <span class="soft">{{ phaseWords[s.phase as 'arrive'] }}</span> {{ s.text }}
            <span class="soft">{{ s.state }}{{ s.at ? `, ${moment(s.at)}` : '' }}</span>
          </li>
        </ol>
      </details>
    </fieldset>
    <fieldset
      v-if="v.advised?.length || v.watched?.length || v.counts?.length || v.exceptions?.length || v.told_whom"
      class="part"
    >
      <legend>Told, watched, counted</legend>
      <ul>
        <li v-for="(a, i) in v.advised ?? []" :key="`a${i}`">
          {{ a.text }}: {{ answerWords[a.answer].toLowerCase() }}
        </li>
        <li v-for="w in v.watched ?? []" :key="w.watch_id">
          Watched: {{ watchWords[w.state].toLowerCase() }}{{ w.note ? `, ${w.note}` : '' }}
        </li>
        <li v-for="c in v.counts ?? []" :key="c.what" :class="{ over: c.taken !== c.back }">
          {{ c.what }}: {{ c.back }} of {{ c.taken }} back{{ c.why ? `; ${c.why}` : '' }}
        </li>
        <li v-for="e in v.exceptions ?? []" :key="e.ban">
          Rule overridden ({{ e.ban.replaceAll('_', ' ') }}): {{ e.reason }}
        </li>
        <li v-if="v.told_whom">Told: {{ v.told_whom }}</li>
      </ul>
    </fieldset>
  </template>
</template>

<style scoped>
summary {
  cursor: pointer;
  color: var(--petrol);
  min-height: 36px;
}
</style>
