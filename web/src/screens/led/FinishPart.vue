<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { outcomeWords, upperFirst } from '../../words'
import { useClock } from './clock'
import { ahead } from '../../api/client'
import { clockSkew } from '../../parts/clockSkew'
import type { Refusal } from './judged'
import { mendTimes, outcomeOf, type Step, type Work } from './ledVisit'

/** How it went, who was here, and what is still needed before the visit is sent. */
const props = defineProps<{ pack: Schemas['VisitPack']; refusals: Refusal[]; steps: Step[] }>()
const emit = defineEmits<{ send: []; show: [step: string] }>()
const work = defineModel<Work>({ required: true })
const ending = ref(false)
const { now } = useClock()

const skew = computed(() => clockSkew(ahead.value))
const textOf = (code: string) => props.steps.find((s) => s.code === code)?.text ?? ''
/** Minutes since the start, as an offer. */
const sofar = computed(() => Math.max(1, Math.round((now.value - Date.parse(work.value.started_at)) / 60000)))
</script>

<template>
  <section class="phase end">
    <h2>Finish</h2>
    <TapChoice
      v-model="work.outcome"
      label="How it went"
      :options="[
        { value: '', label: outcomeOf({ ...work, outcome: '' }) === 'partly' ? 'Partly done' : 'Done' },
        ...Object.entries(outcomeWords)
          .filter(([k]) => k !== 'done' && k !== 'partly')
          .map(([value, label]) => ({ value: value as 'refused', label })),
      ]"
    />
    <div v-for="(p, i) in work.people" :key="i" class="fields two">
      <label class="field"
        ><span class="label">Person</span>
        <ElSelect v-model="p.person_id" size="large" aria-label="Person">
          <ElOption v-for="who in pack.catalogue.people" :key="who.id" :value="who.id" :label="who.name" />
        </ElSelect>
      </label>
      <FigureField v-model="p.minutes" label="Minutes on site" unit="min" />
      <button
        v-if="p.minutes === null"
        type="button"
        class="link offer"
        @click="p.minutes = Math.min(sofar, 1440)"
      >
        {{ sofar }} min since the start: use it
      </button>
    </div>
    <p v-if="skew && !work.mended_ms" class="notice">
      This phone’s clock is {{ skew.words }} the server’s.
      <button type="button" class="link" @click="mendTimes(work, skew.ms, skew.words)">
        Mend the times of this visit
      </button>
    </p>
    <button type="button" class="quiet" @click="work.people.push({ person_id: '', minutes: null })">
      Another person
    </button>
    <details class="how">
      <summary>How it was done here, where it was another way</summary>
      <label v-for="q in pack.questions.filter((x) => x.recorded)" :key="q.code" class="field"
        ><span class="label">{{ q.text }}</span>
        <select v-model="work.choices[q.code]" class="plain-input">
          <option :value="undefined">not said</option>
          <option v-for="c in q.choices" :key="c.code" :value="c.code">{{ c.text }}</option>
        </select>
      </label>
    </details>
    <label class="field"
      ><span class="label">Note</span
      ><textarea v-model="work.note" class="plain-input" rows="3" maxlength="4000" name="note" />
    </label>
    <button v-if="refusals.length" type="button" class="big" @click="ending = true">Finish the visit</button>
    <div v-if="ending || !refusals.length" class="notice" :class="{ danger: refusals.length }" role="status">
      <template v-if="refusals.length">
        <strong>Still needed:</strong>
        <ul class="needed">
          <li v-for="r in refusals" :key="r.field + r.reason">
            {{ upperFirst(r.reason) }}
            <button v-if="r.step" type="button" class="link" @click="emit('show', r.step)">
              Put it right<span class="visually-hidden">: {{ textOf(r.step) }}</span>
            </button>
          </li>
        </ul>
      </template>
      <template v-else>
        <p><strong>Complete.</strong> It is saved on this phone and sent once there is network.</p>
        <button type="button" class="big" @click="emit('send')">Save and send</button>
      </template>
    </div>
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 0;
  padding: 8px 0 4px;
  border-top: 2px solid var(--ink);
}
.how summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  color: var(--petrol);
}
.offer {
  grid-column: 1 / -1;
  text-align: right;
}
.link {
  min-height: 44px;
}
.needed {
  padding-left: 18px;
}
.big {
  width: 100%;
}
.two {
  grid-template-columns: 1.4fr 1fr;
  gap: 0 12px;
}
.notice {
  margin-top: 12px;
}
</style>
