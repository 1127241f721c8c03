<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { compute } from '../../core'
import { flush, putInOutbox, readOutbox, waiting } from '../../offline/outbox'
import { type Pack, packFor } from '../../offline/packs'
import FigureField from '../../parts/FigureField.vue'
import LoadState from '../../parts/LoadState.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { useLoad } from '../../parts/useLoad'
import { mayRecord, session } from '../../session'
import { outcomeWords, roleWords, upperFirst } from '../../words'
import AccessPart from './AccessPart.vue'
import AdvicePart from './AdvicePart.vue'
import { clockOf, runs, useClock, useTimers } from './clock'
import DwellPart from './DwellPart.vue'
import GoodsClock from './GoodsClock.vue'
import IsolationPart from './IsolationPart.vue'
import ListParts from './ListParts.vue'
import LooksPart from './LooksPart.vue'
import PhotoStrip from './PhotoStrip.vue'
import ReadingsPart from './ReadingsPart.vue'
import RinsePart from './RinsePart.vue'
import WatchPart from './WatchPart.vue'
import {
  begin,
  drop,
  keep,
  kept,
  outcomeOf,
  phases,
  phaseWords,
  type Step,
  tagsOf,
  toVisit,
  type Work,
} from './ledVisit'

/** The visit, led step by step in the order of the work. It runs and is kept without network. */
const props = defineProps<{ id: string; token?: string }>()
const router = useRouter()
const work = ref<Work | null>(null)
const resumed = ref(false)
const steps = ref<Step[]>([])
const open = ref('')
const skipping = ref('')
const why = ref('')
const ending = ref(false)
const broken = ref('')
const minutes = ref('')
const top = ref<HTMLElement>()

/** The day at the site; without network the phone's own, unless the clock stands still as in a demonstration. */
const dayOf = (got: Pack) =>
  got.fresh || session.value?.clock_pinned ? got.pack.today : new Date().toLocaleDateString('sv-SE')
const { data, problem, loading, reload } = useLoad(async () => {
  const got = await packFor(props.id, props.token)
  const before = kept(got.pack.unit.id)
  resumed.value = before !== null
  const me = props.token ? (got.pack.catalogue.people[0]?.id ?? '') : (session.value?.person_id ?? '')
  const fresh = begin(got.pack, dayOf(got), me)
  // A draft of an older version of the program lacks what came since.
  work.value = before ? { ...fresh, ...before } : fresh
  // The steps known beforehand show at once; the core puts in what was found since.
  steps.value = got.pack.steps
  open.value = steps.value.find((x) => !work.value?.steps[x.code])?.code ?? ''
  void readOutbox()
  return got
})

const pack = computed(() => data.value?.pack ?? null)
const coilName = (coil: string) => {
  const role = pack.value?.unit.coils.find((u) => u.id === coil)?.role
  return role ? upperFirst(roleWords[role]) : ''
}
const { away, rung, lookUp } = useTimers(() => work.value, coilName)
const { now } = useClock()
// On coming back to a visit whose clocks ran on, what has truly passed shows first.
const stop = watch(pack, (p) => {
  if (!p) return
  lookUp()
  stop()
})

watch(
  work,
  (w) => {
    if (w) keep(w)
  },
  { deep: true },
)
watch(
  () => (pack.value && work.value ? JSON.stringify(tagsOf(pack.value, work.value)) : ''),
  async (text) => {
    if (!text || !pack.value) return
    try {
      const out = await compute<{ steps: Step[] }>('steps', {
        template: pack.value.procedure.steps,
        tags: JSON.parse(text) as string[],
      })
      const atNext = open.value === (next.value?.code ?? '')
      steps.value = out.steps
      if (atNext) open.value = next.value?.code ?? ''
    } catch (e) {
      broken.value = e instanceof Error ? e.message : String(e)
    }
  },
  { immediate: true },
)

const next = computed(() => steps.value.find((s) => !work.value?.steps[s.code]))
const groups = computed(() =>
  phases
    .map((phase) => ({ phase, steps: steps.value.filter((s) => s.phase === phase) }))
    .filter((g) => g.steps.length),
)
const doneCount = computed(() => steps.value.filter((s) => work.value?.steps[s.code]).length)
const openGates = computed(() => steps.value.filter((s) => s.gate && !work.value?.steps[s.code]))
/** A gate in front that is still shut keeps what comes after it shut. */
const shut = (s: Step) => {
  const at = steps.value.indexOf(s)
  return (
    steps.value.slice(0, at).find((x) => x.gate && x.phase === 'safe' && !work.value?.steps[x.code]) ?? null
  )
}
/** What a step waits for before it can be ticked. */
const waits = (s: Step) =>
  s.form === 'dwell' && running.value.length ? 'A clock is running: rinsing has to begin first.' : ''
const sides = computed(() =>
  (pack.value?.unit.coils ?? []).flatMap((c) =>
    c.sides.map((s) => ({ id: s.id, name: `${roleWords[c.role]}, ${s.name}` })),
  ),
)
const running = computed(() => work.value?.coils.filter((c) => runs(c.timer)) ?? [])
const photoPhase = (s: Step): 'before' | 'after' | '' =>
  s.form === 'opened_up' || s.form === 'first_look' ? 'before' : s.form === 'as_left' ? 'after' : ''

function mark(s: Step, state: 'done' | 'skipped', reason = '') {
  const w = work.value
  if (!w) return
  w.steps[s.code] = { state, reason, at: new Date().toISOString() }
  if (s.code === 'isolate' && state === 'done') w.isolation.at = w.steps[s.code]!.at
  skipping.value = ''
  why.value = ''
  open.value = next.value?.code ?? ''
  void nextTick(() =>
    document.getElementById(`step-${open.value}`)?.scrollIntoView({ block: 'start', behavior: 'instant' }),
  )
}
function undo(s: Step) {
  if (work.value)
    work.value.steps = Object.fromEntries(Object.entries(work.value.steps).filter(([k]) => k !== s.code))
  open.value = s.code
}
function startAgain() {
  if (!pack.value) return
  drop(pack.value.unit.id)
  const me = session.value?.person_id ?? work.value?.people[0]?.person_id ?? ''
  work.value = begin(pack.value, work.value?.day ?? pack.value.today, me)
  resumed.value = false
  open.value = steps.value[0]?.code ?? ''
}

/** What stands in the way of sending, in the reader's words. */
const lacking = computed(() => {
  const w = work.value
  if (!w || !pack.value) return []
  const out: string[] = []
  if (w.people.some((p) => !p.person_id || !p.minutes)) out.push('Who was here, and how many minutes.')
  const outcome = outcomeOf(w)
  if (outcome !== 'done' && outcome !== 'partly') {
    if (!w.note.trim()) out.push('What stood in the way, in the note.')
    return out
  }
  for (const g of openGates.value) out.push(`${g.text}: done, or why it was skipped.`)
  if (!w.coils.some((c) => c.on && c.sides.some((s) => s.reached)))
    out.push('At least one side that was reached.')
  for (const c of w.coils.filter((x) => x.on)) {
    for (const s of c.sides) {
      const side = sides.value.find((x) => x.id === s.surface_id)?.name ?? ''
      if (s.reached === null) out.push(`${upperFirst(side)}: reached or not.`)
      else if (!s.reached && !s.why_not.trim()) out.push(`${upperFirst(side)}: why it was not reached.`)
      else if (s.reached && !s.found.length) out.push(`${upperFirst(side)}: found, opened up.`)
      else if (s.reached && c.method && !s.left.length) out.push(`${upperFirst(side)}: as left.`)
    }
    if (
      c.timer &&
      c.timer.sprayed &&
      c.timer.rinsed &&
      (c.timer.rinsed - c.timer.sprayed) / 1000 > c.timer.max_s &&
      !c.timer.over.trim()
    )
      out.push(`${coilName(c.coil_id)}: it stood past its maximum; what was done about it.`)
  }
  return out
})

/** Minutes since the start, as an offer. */
const sofar = computed(() => {
  const at = work.value ? Date.parse(work.value.started_at) : now.value
  return Math.max(1, Math.round((now.value - at) / 60000))
})

async function send() {
  const w = work.value
  if (!w || !pack.value || lacking.value.length) return
  const visit = toVisit(pack.value, w, new Date().toISOString())
  const consents = w.coils
    .filter((c) => c.consent.trim())
    .map((c) => `${coilName(c.coil_id)}, slabs: ${c.consent.trim()}`)
  if (consents.length) visit.note = [visit.note, ...consents].filter(Boolean).join('\n')
  try {
    await putInOutbox({
      key: w.key,
      tag: pack.value.unit.tag,
      visit,
      photos: w.photos.map((p) => p.id),
      work: JSON.stringify(w),
      token: props.token ?? '',
    })
  } catch (e) {
    broken.value = `It could not be kept on this phone: ${e instanceof Error ? e.message : String(e)}`
    return
  }
  drop(w.unit_id)
  work.value = null
  void flush()
  await router.push(props.token ? `/g/${props.token}/sent` : '/outbox')
}
onBeforeUnmount(() => {
  minutes.value = ''
})
const refusedBefore = computed(() =>
  waiting.value.find((x) => x.visit.unit_id === props.id && x.state === 'refused'),
)
</script>

<template>
  <section ref="top" class="screen work">
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
          Kept on this phone at every tap.<template v-if="data && !data.fresh">
            No network: working from what was kept on {{ data.at.slice(0, 10) }}.</template
          >
        </p>
      </div>
      <p v-if="broken" class="notice danger" role="alert">{{ broken }}</p>
      <p v-if="refusedBefore" class="notice danger">
        A visit to this unit was refused by the server and waits here.
        <RouterLink to="/outbox">See why</RouterLink>
      </p>
      <div v-if="away.length" class="notice first" role="status">
        <p v-for="a in away" :key="a.coil">
          <strong>{{ a.coil }} has stood {{ clockOf(a.stood) }}.</strong>
          <span v-if="a.over > 0" class="over"> Past its maximum by {{ clockOf(a.over) }}: rinse now.</span>
        </p>
        <button type="button" class="quiet" @click="away = []">Seen</button>
      </div>
      <div v-if="rung" class="notice danger" role="alert">
        <strong>{{ rung }}</strong>
        <button type="button" class="quiet" @click="rung = ''">Seen</button>
      </div>
      <p v-if="resumed && doneCount" class="notice">
        Going on where it was left.
        <button type="button" class="link" @click="startAgain">Start again</button>
      </p>
      <div class="bar">
        <GoodsClock v-if="pack.cooled_goods" :work="work" />
        <p
          v-for="c in running"
          :key="c.coil_id"
          class="run"
          :class="{ over: (now - c.timer!.sprayed!) / 1000 > c.timer!.max_s }"
        >
          {{ coilName(c.coil_id) }} stands <strong>{{ clockOf((now - c.timer!.sprayed!) / 1000) }}</strong> of
          {{ c.timer!.min_s / 60 }} to {{ c.timer!.max_s / 60 }} min
          <button type="button" class="link" @click="open = 'apply_cleaner'">go there</button>
        </p>
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
            <div v-if="open === s.code" class="body">
              <p class="why">{{ upperFirst(s.why) }}.</p>
              <p v-for="c in s.cautions ?? []" :key="c" class="caution">{{ c }}</p>
              <p v-if="shut(s)" class="notice">First: {{ shut(s)!.text }}.</p>
              <AccessPart v-if="s.form === 'access'" :pack="pack" />
              <WatchPart v-else-if="s.form === 'watch'" v-model="work" :pack="pack" />
              <ReadingsPart
                v-else-if="s.form === 'readings_before'"
                v-model="work"
                :pack="pack"
                phase="before"
                :guest="!!token"
              />
              <ReadingsPart
                v-else-if="s.form === 'readings_after'"
                v-model="work"
                :pack="pack"
                phase="after"
                :guest="!!token"
              />
              <IsolationPart
                v-else-if="s.form === 'isolation'"
                v-model="work"
                :step="s.code"
                :plug-in="pack.tags.includes('plug_in')"
              />
              <LooksPart v-else-if="s.form === 'first_look'" v-model="work" :pack="pack" phase="first" />
              <LooksPart v-else-if="s.form === 'opened_up'" v-model="work" :pack="pack" phase="found" />
              <LooksPart v-else-if="s.form === 'as_left'" v-model="work" :pack="pack" phase="left" />
              <AdvicePart v-else-if="s.form === 'advice'" v-model="work" :pack="pack" />
              <DwellPart v-else-if="s.form === 'dwell'" v-model="work" :pack="pack" />
              <RinsePart v-else-if="s.form === 'rinse'" v-model="work" :pack="pack" />
              <ListParts
                v-else-if="s.form === 'parts' || s.form === 'count' || s.form === 'told'"
                v-model="work"
                :pack="pack"
                :form="s.form"
                :back="s.code === 'count_back'"
              />
              <PhotoStrip
                v-if="s.photo"
                v-model="work"
                :step="s.code"
                :ask="s.photo"
                :phase="photoPhase(s)"
                :sides="sides"
              />
              <div v-if="work.steps[s.code]" class="row">
                <p class="soft">
                  {{ work.steps[s.code]!.state === 'done' ? 'Done' : 'Skipped' }}
                  {{
                    new Date(work.steps[s.code]!.at).toLocaleTimeString([], {
                      hour: '2-digit',
                      minute: '2-digit',
                    })
                  }}<template v-if="work.steps[s.code]!.reason">: {{ work.steps[s.code]!.reason }}</template>
                </p>
                <button type="button" class="quiet" @click="undo(s)">Not done after all</button>
              </div>
              <div v-else-if="skipping === s.code" class="skip">
                <label class="field"
                  ><span class="label">{{
                    s.gate ? 'Why it is skipped; the manager will see it' : 'Why it is skipped'
                  }}</span
                  ><input v-model="why" class="plain-input" maxlength="500"
                /></label>
                <div class="row">
                  <button
                    type="button"
                    class="big"
                    :disabled="s.gate && !why.trim()"
                    @click="mark(s, 'skipped', why.trim())"
                  >
                    Skip it
                  </button>
                  <button type="button" class="quiet" @click="skipping = ''">Back</button>
                </div>
              </div>
              <div v-else class="row">
                <button
                  type="button"
                  class="big"
                  :disabled="!!shut(s) || !!waits(s)"
                  @click="mark(s, 'done')"
                >
                  Done
                </button>
                <button type="button" class="quiet" :disabled="!!shut(s)" @click="skipping = s.code">
                  Skip …
                </button>
              </div>
            </div>
          </li>
        </ol>
      </section>

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
              <ElOption
                v-for="who in pack.catalogue.people"
                :key="who.id"
                :value="who.id"
                :label="who.name"
              />
            </ElSelect>
          </label>
          <FigureField
            v-model="p.minutes"
            label="Minutes on site"
            unit="min"
            :hint="i === 0 ? `${sofar} min since the start` : ''"
          />
        </div>
        <button type="button" class="quiet" @click="work.people.push({ person_id: '', minutes: null })">
          Another person
        </button>
        <details class="how">
          <summary>How it was done: free choices, recorded</summary>
          <label
            v-for="q in pack.questions.filter((x) => x.recorded && x.code !== 'interval')"
            :key="q.code"
            class="field"
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
        <button type="button" class="big" @click="ending = true">Finish the visit</button>
        <div v-if="ending" class="notice" :class="{ danger: lacking.length }" role="status">
          <template v-if="lacking.length">
            <strong>Still needed:</strong>
            <ul>
              <li v-for="l in lacking" :key="l">{{ l }}</li>
            </ul>
          </template>
          <template v-else>
            <p><strong>All there.</strong> It is kept on this phone and sent once when there is network.</p>
            <button type="button" class="big" @click="send">Keep and send</button>
          </template>
        </div>
      </section>
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
.run {
  margin: 0;
  padding: 6px 14px;
  background: var(--petrol-tint);
  border-top: 1px solid var(--paper);
}
.run.over {
  background: var(--danger-tint);
}
.cautions {
  font-size: 14.5px;
}
.how summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  color: var(--petrol);
}
.cautions summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
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
.body {
  padding: 0 0 12px 38px;
}
@media (max-width: 560px) {
  .body {
    padding-left: 0;
  }
}
.why {
  color: var(--ink-soft);
  margin-bottom: 8px;
}
.caution {
  border-left: 4px solid var(--danger);
  padding-left: 10px;
  margin: 0 0 8px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 10px;
}
.row p {
  flex: 1;
  margin: 0;
}
.row .big {
  flex: 2;
}
.row .quiet {
  flex: 1;
}
.end .big {
  width: 100%;
}
.two {
  grid-template-columns: 1.4fr 1fr;
  gap: 0 12px;
}
.first p {
  margin: 0 0 6px;
  font-size: 17px;
}
.link {
  min-height: 44px;
}
:deep(.el-input__wrapper),
:deep(.el-select__wrapper) {
  min-height: 46px;
}
.end .notice {
  margin-top: 12px;
}
</style>
