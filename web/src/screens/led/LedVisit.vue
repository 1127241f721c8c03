<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import type { Schemas } from '../../api/client'
import { waiting } from '../../offline/outbox'
import SureButton from '../../parts/SureButton.vue'
import LoadState from '../../parts/LoadState.vue'
import { mayRecord, session } from '../../session'
import { outcomeWords } from '../../words'
import { visitJobWords } from '../../api/facts.gen'
import FinishPart from './FinishPart.vue'
import GoodsClock from './GoodsClock.vue'
import { jobKinds, jobsOf, phaseWords } from './ledVisit'
import StepBody from './StepBody.vue'
import { useLedVisit } from './useLedVisit'

/** The visit, led step by step in the order of the work. It runs and is kept without network. */
const props = defineProps<{ id: string; token?: string }>()
const router = useRouter()
const route = useRoute()
/** The kinds of job the address names: what the visit is for. */
const asked = String(route.query['job'] ?? '')
  .split(',')
  .filter((j): j is Schemas['VisitJob'] => j in visitJobWords)
/** The round it was opened from: after sending, its next unit follows. */
const round = String(route.query['round'] ?? '')
/** What the visit is for; at least one. */
function toggle(job: Schemas['VisitJob']) {
  const w = work.value
  if (!w) return
  const on = w.jobs.includes(job)
  if (on && w.jobs.length === 1) return
  w.jobs = on ? w.jobs.filter((j) => j !== job) : [...w.jobs, job]
  if (job === 'deep' || job === 'light')
    for (const c of w.coils) c.work = w.jobs.includes('deep') ? 'deep' : 'light'
}
const {
  data,
  problem,
  loading,
  reload,
  pack,
  work,
  resumed,
  steps,
  open,
  broken,
  groups,
  doneCount,
  sides,
  refusals,
  asksAt,
  show,
  lingering,
  run,
  markRun,
  shut,
  waits,
  mark,
  undo,
  startAgain,
  handOver,
  send,
} = useLedVisit(props.id, props.token ?? '', asked)
/** A clock that runs leads to its step from whatever screen. */
watch([() => route.query['step'], pack], ([step, p]) => {
  if (p && step) show(String(step))
})
const refusedBefore = computed(() =>
  waiting.value.find((x) => x.visit.unit_id === props.id && x.state === 'refused'),
)
const alsoToday = computed(() => pack.value?.unit.visits.find((v) => v.day === work.value?.day))
const heir = ref('')
async function hand() {
  if (await handOver(heir.value)) await router.push('/today')
}
async function finish() {
  if (!(await send())) return
  const next = round ? `/today?after=${props.id}` : '/outbox'
  await router.push(props.token ? `/g/${props.token}/sent` : next)
}
</script>

<template>
  <section class="screen work">
    <LoadState :loading="loading && !data" :problem="problem" what="the visit" @retry="reload" />
    <p v-if="data && !token && !mayRecord()" class="notice">
      Your role may look at visits but not record them.
    </p>
    <template v-else-if="pack && work">
      <div class="head">
        <p class="soft">
          <RouterLink v-if="!token" :to="`/units/${pack.unit.id}`">{{ pack.unit.tag }}</RouterLink><template
            v-else
            >{{ pack.unit.tag }}</template
          >
          · {{ pack.unit.class }} · {{ pack.unit.site }},
          {{ pack.unit.placement }}
        </p>
        <h1>{{ pack.unit.tag }}, step by step</h1>
        <p class="soft">
          <RouterLink v-if="!token" :to="`/scan?expect=${pack.unit.id}`">Is this the unit?</RouterLink>
          Saved on this phone at every tap.<template v-if="data && !data.fresh">
            No network: working from what was kept on {{ data.at.slice(0, 10) }}.</template
          >
        </p>
      </div>
      <p v-if="broken" class="notice danger" role="alert">{{ broken }}</p>
      <p v-if="alsoToday" class="notice">
        <strong>Somebody was here today already:</strong> {{ alsoToday.people.join(', ') || 'nobody named' }},
        {{ outcomeWords[alsoToday.outcome].toLowerCase() }}. Record another visit only if it is another.
      </p>
      <p v-if="refusedBefore" class="notice danger">
        A visit to this unit was refused by the server and waits here.
        <RouterLink to="/outbox">See why</RouterLink>
      </p>
      <p v-if="resumed && doneCount" class="notice">
        Continuing where you stopped.
        <template v-if="work.handed_by">Begun by {{ work.handed_by }}, handed over to you. </template>
        <SureButton
          look="link"
          label="Start again"
          ask="Erase what was recorded of this visit?"
          @sure="startAgain"
        />
      </p>
      <div class="bar">
        <GoodsClock v-if="pack.cooled_goods" :work="work" />
      </div>
      <details class="cautions">
        <summary>Cautions</summary>
        <ol>
          <li v-for="c in pack.catalogue.cautions" :key="c">{{ c }}</li>
        </ol>
        <p>
          <strong>{{ pack.catalogue.deferral }}</strong>
        </p>
      </details>

      <details class="what" :open="!asked.length">
        <summary>
          For:
          {{
            jobsOf(work)
              .map((j) => visitJobWords[j].toLowerCase())
              .join(', ')
          }}
        </summary>
        <fieldset class="for">
          <legend class="label">What this visit is for</legend>
          <label v-for="job in jobKinds" :key="job" :class="{ on: work.jobs.includes(job) }">
            <input
              type="checkbox"
              class="visually-hidden"
              :checked="work.jobs.includes(job)"
              @change="toggle(job)"
            />{{ visitJobWords[job] }}
          </label>
        </fieldset>
      </details>
      <p class="soft count">{{ doneCount }} of {{ steps.length }} steps</p>
      <section v-for="g in groups" :key="g.phase" class="phase" :aria-label="phaseWords[g.phase]">
        <h2>{{ phaseWords[g.phase] }}</h2>
        <ol>
          <li
            v-for="s in g.steps"
            :id="`step-${s.code}`"
            :key="s.code"
            :class="{ done: work.steps[s.code], now: open === s.code, gate: s.gate }"
          >
            <button
              type="button"
              class="line"
              :aria-expanded="open === s.code"
              @click="open = open === s.code ? '' : s.code"
            >
              <span class="dot" aria-hidden="true">{{
                work.steps[s.code] ? (work.steps[s.code]!.state === 'done' ? '✓' : '–') : ''
              }}</span>
              <span class="text">{{ s.text }}</span>
              <span v-if="work.steps[s.code]" class="visually-hidden">{{ work.steps[s.code]!.state }}</span>
              <span v-if="s.gate && !work.steps[s.code]" class="tag">gate</span>
            </button>
            <StepBody
              v-if="open === s.code || lingering === s.code"
              v-model="work"
              :step="s"
              :pack="pack"
              :sides="sides"
              :guest="!!token"
              :shut="shut(s)"
              :waits="waits(s)"
              :asks="asksAt(s)"
              :run="run(s)"
              @mark-run="markRun(s)"
              @mark="(state, reason) => mark(s, state, reason)"
              @undo="undo(s)"
            />
          </li>
        </ol>
      </section>

      <FinishPart
        v-model="work"
        :pack="pack"
        :refusals="refusals"
        :steps="steps"
        @send="finish"
        @show="show"
      />
      <details v-if="!token" class="what">
        <summary>Hand it over to somebody else on this phone</summary>
        <label class="field"
          ><span class="label">To whom; it is theirs from then on</span>
          <select v-model="heir" class="plain-input" name="heir">
            <option value="">choose</option>
            <option
              v-for="x in pack.catalogue.people.filter((x) => x.id !== session?.person_id)"
              :key="x.id"
              :value="x.id"
            >
              {{ x.name }}
            </option>
          </select></label
        >
        <button type="button" class="big" :disabled="!heir" @click="hand">Hand it over</button>
      </details>
    </template>
  </section>
</template>

<style scoped>
.work {
  max-width: 760px;
}
.head h1 {
  font-size: 22px;
}
.bar {
  position: sticky;
  top: 0;
  z-index: 5;
  background: var(--paper);
}
.cautions {
  font-size: 14.5px;
}
.cautions summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.what summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.for {
  border: 0;
  padding: 0;
  margin: 6px 0;
  min-width: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.for label {
  position: relative;
  min-height: 44px;
  padding: 0 12px;
  display: flex;
  align-items: center;
  border: 1px solid var(--edge);
  cursor: pointer;
}
.for label.on {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
}
.for label:focus-within {
  outline: 2px solid var(--petrol);
  outline-offset: 2px;
}
.count {
  margin: 2px 0 0;
}
.phase h2 {
  margin: 14px 0 0;
  padding: 8px 0 4px;
  border-top: 2px solid var(--ink);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.cautions ol {
  list-style: decimal;
  padding-left: 22px;
}
.phase li {
  scroll-margin-top: 96px;
  border-bottom: 1px solid var(--hairline);
}
.line {
  width: 100%;
  min-height: 50px;
  display: flex;
  gap: 12px;
  align-items: center;
  text-align: left;
  padding: 6px 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.dot {
  flex: none;
  width: 26px;
  height: 26px;
  border: 2px solid var(--edge);
  border-radius: 50%;
  display: flex;
  align-items: center;
  justify-content: center;
  font-weight: 700;
  font-size: 14px;
}
.gate .dot {
  border-radius: 3px;
  border-color: var(--ink);
}
.done .dot {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
}
.text {
  flex: 1;
}
.done .text {
  color: var(--ink-soft);
}
.now .text {
  font-weight: 650;
}
.tag {
  font-size: 12.5px;
  border: 1px solid var(--ink);
  padding: 0 6px;
}
.link {
  min-height: 44px;
}
:deep(.el-input__wrapper),
:deep(.el-select__wrapper) {
  min-height: 46px;
}
</style>
