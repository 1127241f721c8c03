<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import CoilComb from '../../parts/CoilComb.vue'
import FileList from '../../parts/FileList.vue'
import LoadState from '../../parts/LoadState.vue'
import ReasonList from '../../parts/ReasonList.vue'
import SiltKey from '../../parts/SiltKey.vue'
import SoilCurve from '../../parts/SoilCurve.vue'
import { useLoad } from '../../parts/useLoad'
import { mayRecord, session } from '../../session'
import {
  dayOf,
  gradeNames,
  kindWords,
  percent,
  qualityWords,
  roleWords,
  rateFromWords,
  schoolWords,
  shortDay,
  statusWords,
  upperFirst,
} from '../../words'
import VisitTable from '../visit/VisitTable.vue'
import WatchList from './WatchList.vue'
import CompanionList from './CompanionList.vue'
import PartStates from './PartStates.vue'
import IntervalCard from './IntervalCard.vue'
import CauseList from './CauseList.vue'
import IntervalDrag, { type Preview } from './IntervalDrag.vue'
import NeighbourList from './NeighbourList.vue'

const props = defineProps<{ id: string }>()
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/units/{unit_id}', { params: { path: { unit_id: props.id } } })),
)

const shown = ref('')
/** Coils and sides on offer; the one with the most soil is shown first. */
const sides = computed(() =>
  (data.value?.coils ?? []).flatMap((coil) =>
    coil.sides.map((side) => ({ coil, side, label: `${upperFirst(roleWords[coil.role])}, ${side.name}` })),
  ),
)
watch(sides, (all) => {
  if (all.some((s) => s.side.id === shown.value)) return
  const worst = [...all].sort(
    (a, b) => (b.side.state.blocked_share ?? -1) - (a.side.state.blocked_share ?? -1),
  )[0]
  shown.value = worst?.side.id ?? ''
})
const at = computed(() => sides.value.find((s) => s.side.id === shown.value))

const answer = computed(() => {
  const u = data.value
  const s = at.value?.side
  if (!u || !s) return ''
  const st = s.state
  if (!st.known) return 'Nothing is known of its soil: no dated clean, and nobody has looked.'
  const share = st.blocked_share ?? 0
  const grade = `${st.grade} ${gradeNames[st.grade ?? 0]}`
  const by = {
    own: 'By its own findings',
    peers: 'By what its peers showed',
    assumed: 'At the assumed rate',
  }[s.rate_from]
  if (share > u.limit_share)
    return `${by} likely ${percent(share)} blocked today (${grade}), over the limit of ${percent(u.limit_share)}.`
  const when = s.limit_on ? ` Passes ${percent(u.limit_share)} about ${shortDay(s.limit_on)}.` : ''
  return `${by} likely ${percent(share)} blocked today (${grade}).${when}`
})
/** What stands out at this coil, in words; each only where the figures say so. */
const notes = computed(() => {
  const s = at.value?.side
  const coil = at.value?.coil
  if (!s || !coil) return []
  const out: string[] = []
  const st = s.state
  if (s.look_with_light && st.known) {
    const range = `${percent(st.core_low_share ?? 0)} to ${percent(st.core_high_share ?? 0)}`
    out.push(
      st.core_seen
        ? `The core is probably ${percent(st.core_share ?? 0)} blocked (${range}) and was not seen at the last two visits. Look through it with a light at the next visit.`
        : (st.face_grade ?? 0) < (st.core_grade ?? 0)
          ? `Nobody has seen the core. It is probably ${percent(st.core_share ?? 0)} blocked (${range}) behind a face that is probably no worse than ${gradeNames[st.face_grade ?? 0]}. Look through it with a light at the next visit.`
          : `Nobody has seen the core. It is probably ${percent(st.core_share ?? 0)} blocked (${range}). Look through it with a light at the next visit.`,
    )
  }
  if (s.drifted && s.drift_times && s.drift_since) {
    const times = s.drift_times
    out.push(
      `Its rate has changed: since the finding of ${shortDay(s.drift_since)} it soils ${times > 1 ? `${times.toFixed(1)} times as fast` : `at ${percent(times)} of the speed`}. Look for what changed there.`,
    )
  }
  for (const other of coil.sides)
    if (!other.reachable)
      out.push(
        `${upperFirst(other.name)} is never reached${other.why_not ? `: ${other.why_not}` : ''}. It stays due and counts in no interval.`,
      )
  for (const t of coil.tasks.slice(0, 1)) {
    const found = s.observations.filter((o) => o.phase === 'opened_up').slice(-4)
    if (found.length >= 3 && found.every((o) => o.grade === 0) && t.every_days < 0.7 * t.proposal.cost.days)
      out.push(
        `Found bare the last ${found.length} times: the ${kindWords[t.kind]} comes too often. Least cost would be ${Math.round(t.proposal.cost.days)} d instead of ${t.every_days} d.`,
      )
  }
  return out
})
const benches = computed(() => (at.value?.coil.tasks ?? []).filter((t) => t.bench))
const tried = ref('')
/** The interval under the hand: the deep clean's unless another is picked. */
const dragged = computed(
  () =>
    benches.value.find((t) => t.task_id === tried.value) ??
    benches.value.find((t) => t.proposal.id) ??
    benches.value.find((t) => t.kind === 'deep') ??
    benches.value[0],
)
const preview = ref<Preview | null>(null)
watch(dragged, (t) => {
  if (!t) preview.value = null
})
const planned = computed(() =>
  (at.value?.coil.tasks ?? [])
    .filter((t) => !t.first_look)
    .map((t) => ({ day: t.due, label: kindWords[t.kind].replace(' clean', '') })),
)
const changes = computed(() =>
  (data.value?.coils ?? [])
    .flatMap((c) =>
      c.tasks.flatMap((t) =>
        t.changes.map((change) => ({ change, what: `${roleWords[c.role]}, ${kindWords[t.kind]}` })),
      ),
    )
    .sort((a, b) => b.change.at.localeCompare(a.change.at)),
)
const visits = computed(() => data.value?.visits.slice(0, 12) ?? [])
/** The clean whose work plan is decided on comes first. */
const decisionFirst = (tasks: Schemas['Task'][]) =>
  [...tasks].sort((a, b) => Number(!!b.proposal.program) - Number(!!a.proposal.program))
</script>

<template>
  <section class="screen">
    <LoadState :loading="loading && !data" :problem="problem" what="the unit" @retry="reload" />
    <template v-if="data">
      <div class="screen-head">
        <div>
          <p class="soft">
            <RouterLink :to="{ path: '/portfolio', query: { site: data.site_id } }">{{
              data.site
            }}</RouterLink>
            ›
            {{ data.placement }}
          </p>
          <h1>
            {{ data.tag }}, {{ data.class.toLowerCase()
            }}<template v-if="at">: {{ roleWords[at.coil.role] }}, {{ at.side.name }}</template>
          </h1>
          <p v-if="data.status !== 'in_service'" class="over">
            {{ upperFirst(statusWords[data.status as Schemas['UnitStatus']])
            }}{{ data.status === 'out_of_service' ? ': it does not soil meanwhile.' : '.' }}
          </p>
          <p class="answer">
            <span :class="{ over: (at?.side.state.blocked_share ?? 0) > data.limit_share }">{{
              answer
            }}</span>
          </p>
          <ul v-if="notes.length" class="notes">
            <li v-for="n in notes" :key="n">{{ n }}</li>
          </ul>
        </div>
        <div class="actions">
          <CoilComb v-if="at" :state="at.side.state" :scale="1.4" />
          <RouterLink class="button" :to="`/units/${id}/card`">Card</RouterLink>
          <RouterLink class="button" :to="{ path: '/call-outs', query: { unit: id } }">Call-outs</RouterLink>
          <RouterLink
            v-if="mayRecord() && data.status !== 'retired' && data.status !== 'planned'"
            class="button"
            :to="`/units/${id}/work`"
            >Start the visit</RouterLink
          >
          <RouterLink
            v-if="mayRecord() && data.status !== 'retired' && data.status !== 'planned'"
            class="button"
            :to="`/units/${id}/visit`"
            >Record a past visit</RouterLink
          >
        </div>
      </div>

      <div class="columns">
        <div>
          <label v-if="sides.length > 1" class="field pick"
            ><span class="label">Coil and side</span>
            <ElSelect v-model="shown" aria-label="Coil and side">
              <ElOption v-for="s in sides" :key="s.side.id" :value="s.side.id" :label="s.label" />
            </ElSelect>
          </label>
          <SoilCurve
            v-if="at"
            :side="at.side"
            :limit="data.limit_share"
            :today="session?.today ?? dayOf(Date.now())"
            :planned="planned"
            :fan="at.side.reachable ? preview?.fan : undefined"
            :cleans="at.side.reachable ? preview?.cleans : undefined"
            :load="data.load_months"
          />
          <template v-if="dragged?.bench">
            <div v-if="benches.length > 1" class="which" role="group" aria-label="Interval to try">
              <button
                v-for="t in benches"
                :key="t.task_id"
                type="button"
                class="link"
                :aria-pressed="t.task_id === dragged.task_id"
                @click="tried = t.task_id"
              >
                {{ upperFirst(kindWords[t.kind]) }}
              </button>
            </div>
            <IntervalDrag
              :key="dragged.task_id"
              :bench="dragged.bench"
              :in-force="dragged.every_days"
              :proposed="
                dragged.proposal.id && !dragged.proposal.program?.leads ? dragged.proposal.days : undefined
              "
              :label="upperFirst(kindWords[dragged.kind])"
              @moved="(p) => (preview = p)"
            />
          </template>
          <CauseList v-if="at?.coil.causes.length" :causes="at.coil.causes" />
          <NeighbourList
            v-if="at?.coil.neighbours.length"
            :neighbours="at.coil.neighbours"
            :times="at.side.rate_per_30_days / at.side.assumed_rate"
            :tag="data.tag"
          />
          <h2>Visits</h2>
          <p v-if="!visits.length" class="soft">No visit recorded yet.</p>
          <VisitTable v-else :visits="visits" />
          <p v-if="data.visits.length > visits.length" class="soft">
            The newest {{ visits.length }} of {{ data.visits.length }}.
          </p>
          <SiltKey />
          <h2>Files</h2>
          <FileList :id="id" entity="unit" />
          <h2>Watched</h2>
          <WatchList :id="id" />
        </div>
        <aside>
          <template v-for="c in data.coils" :key="c.id">
            <h2>Interval: {{ roleWords[c.role] }}</h2>
            <IntervalCard
              v-for="t in decisionFirst(c.tasks)"
              :key="`${t.task_id} ${t.proposal.id} ${t.every_days}`"
              :task="t"
              @changed="reload"
            />
          </template>
          <PartStates v-if="data.surfaces.length" :parts="data.surfaces" :today="session?.today ?? ''" />
          <CompanionList v-if="data.companions.length" :companions="data.companions" @changed="reload" />
          <template v-if="at">
            <h2>Why this rate</h2>
            <p>
              <strong>{{ at.side.rate_per_30_days.toFixed(3) }} load in 30 days</strong>,
              {{ rateFromWords[at.side.rate_from] }}; likely {{ at.side.rate_low.toFixed(3) }} to
              {{ at.side.rate_high.toFixed(3) }}.
            </p>
            <ReasonList :reasons="at.side.reasons" />
            <h2>What its soil costs</h2>
            <ReasonList :reasons="at.coil.money" />
            <template v-if="at.coil.proofs.length">
              <h2>What cleans brought</h2>
              <ul class="plain">
                <li v-for="p in at.coil.proofs" :key="p.day">{{ shortDay(p.day) }}: {{ p.text }}</li>
              </ul>
            </template>
          </template>
          <h2>Site factors</h2>
          <p v-if="!data.factors.length" class="soft">None: the class rate applies.</p>
          <ul v-else class="plain">
            <li v-for="f in data.factors" :key="f.id" :class="{ soft: !f.in_force }">
              {{ f.name }} ×{{ f.multiplier }} <span v-if="f.leads" class="soft">(leads)</span>
              <span class="soft"
                >{{ f.scope }}, from {{ f.from ? shortDay(f.from) : 'ever'
                }}{{ f.to ? ` until ${shortDay(f.to)}` : '' }}{{ f.note ? `; ${f.note}` : '' }}</span
              >
            </li>
            <li>
              <strong>Together ×{{ data.factor.toFixed(2) }}</strong>
              <span class="soft">largest × square root of the rest, at most 8</span>
            </li>
          </ul>
          <h2>Interval changes</h2>
          <p v-if="!changes.length" class="soft">None yet.</p>
          <ul v-else class="plain">
            <li v-for="c in changes" :key="c.change.id">
              {{ shortDay(c.change.at.slice(0, 10)) }}: {{ c.what }} {{ c.change.from_days }} →
              <strong>{{ c.change.to_days }} d</strong>
              <span class="soft"
                >{{ schoolWords[c.change.school] }}, {{ c.change.by
                }}{{ c.change.reason ? `: ${c.change.reason}` : '' }}</span
              >
            </li>
          </ul>
          <h2>Nameplate and notes</h2>
          <ul class="plain">
            <li v-if="data.make || data.model">{{ data.make }} {{ data.model }}</li>
            <li v-if="data.commissioned">Commissioned {{ shortDay(data.commissioned) }}</li>
            <li v-for="c in data.coils" :key="c.id">
              {{ upperFirst(roleWords[c.role]) }}: history starts
              {{
                c.start_day
                  ? `${qualityWords[c.start_quality]} ${shortDay(c.start_day)}`
                  : `${qualityWords[c.start_quality]}`
              }}; all sides together {{ percent(c.blocked_share) }} blocked
            </li>
            <li v-if="data.note">{{ data.note }}</li>
          </ul>
        </aside>
      </div>
    </template>
  </section>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 36px;
}
.answer {
  margin-top: 4px;
  font-size: 16px;
}
.notes {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}
.notes li {
  padding: 1px 0;
  font-weight: 600;
}
.which {
  display: flex;
  gap: 16px;
  margin-top: 4px;
}
.which [aria-pressed='true'] {
  font-weight: 650;
  text-decoration: none;
  color: var(--ink);
}
.screen-head > :first-child {
  flex: 1 1 400px;
}
.screen-head .actions {
  align-items: center;
  gap: 20px;
}
.pick {
  max-width: 320px;
}
h2 {
  margin: 20px 0 6px;
}
aside h2:first-child {
  margin-top: 0;
}
.plain {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain li {
  padding: 3px 0;
}
.plain .soft {
  display: block;
}
@media (max-width: 1000px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
    gap: 10px;
  }
}
</style>
