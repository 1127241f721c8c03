<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManageHouse, session } from '../../session'
import { count, duration, jobWords, longDay, percent, shortDay, upperFirst } from '../../words'
import DriveMap from './DriveMap.vue'
import HourPrice from './HourPrice.vue'
import PlanWeeks from './PlanWeeks.vue'

const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/plan')))
const sent = useLoad(() => ask(api.GET('/rounds')))
const buy = useLoad(() => ask(api.GET('/plan/purchases')))
const refused = ref<ApiProblem | null>(null)
const everything = () => Promise.all([reload(), sent.reload(), buy.reload()])
const busy = ref(false)
const note = ref('')
const chosen = ref(new Set<string>())
const shown = ref('')
const mail = ref(false)
const digestTo = ref('')
let key = crypto.randomUUID()

const idOf = (r: { crew_id: string; day: string }) => `${r.crew_id} ${r.day}`
watch(data, (p) => {
  chosen.value = new Set()
  key = crypto.randomUUID()
  if (!p?.rounds.some((r) => idOf(r) === shown.value)) shown.value = p?.rounds[0] ? idOf(p.rounds[0]) : ''
})
const money = (v: number) => `${v.toFixed(0)} ${session.value?.currency ?? ''}`
const drawn = computed(() => data.value?.rounds.find((r) => idOf(r) === shown.value))
const changed = computed(
  () => data.value?.rounds.filter((r) => r.status === 'changed' || r.status === 'called_off') ?? [],
)
const parts = computed(() => {
  const sums = data.value?.sums
  if (!sums) return []
  const row = (name: string, k: keyof Schemas['PlanCost']) => ({
    name,
    greedy: sums.greedy_cost[k],
    plan: sums.cost[k],
  })
  return [
    row('Waiting: jobs done late', 'waiting'),
    row('Early: interval not used up', 'haste'),
    row('Driving', 'driving'),
    row('Signing in at stops', 'stops'),
    row('Overtime', 'overtime'),
    row('Contractors', 'crews'),
    row('Changes to published rounds', 'moved'),
    row('Left out', 'left_out'),
  ].filter((r) => r.greedy >= 0.5 || r.plan >= 0.5)
})
const weeks = computed(() => {
  const out = new Map<string, Schemas['WeekLoad'][]>()
  for (const w of data.value?.weeks ?? []) out.set(w.from, [...(out.get(w.from) ?? []), w])
  return [...out]
})
const crewName = (id: string) => data.value?.crews.find((c) => c.id === id)?.name ?? ''
const jobsOf = (r: Schemas['PlannedRound']) => r.stops.reduce((n, s) => n + s.jobs.length, 0)
const standing: Record<Schemas['PlannedRound']['status'], string> = {
  draft: 'not published',
  published: 'published',
  changed: 'published, changed since',
  called_off: 'published, to be withdrawn',
}
function pick(r: Schemas['PlannedRound'], on: boolean) {
  const next = new Set(chosen.value)
  if (on) next.add(idOf(r))
  else next.delete(idOf(r))
  chosen.value = next
  key = crypto.randomUUID()
}
const firstWeek = () => {
  const first = data.value?.rounds.find((r) => r.status !== 'published')?.day
  if (!first) return
  const until = new Date(Date.parse(`${first}T00:00:00Z`) + 7 * 86_400_000).toISOString().slice(0, 10)
  chosen.value = new Set(
    data.value!.rounds.filter((r) => r.day < until && r.status !== 'published').map(idOf),
  )
}
async function act(what: () => Promise<unknown>) {
  busy.value = true
  refused.value = null
  note.value = ''
  try {
    await what()
    await everything()
  } catch (e) {
    refused.value = problemOf(e)
  } finally {
    busy.value = false
  }
}
const publish = () =>
  act(async () => {
    const rounds = [...chosen.value].map((id) => {
      const [crew_id = '', day = ''] = id.split(' ')
      return { crew_id, day }
    })
    const out = await ask(
      api.POST('/plan/publication', {
        params: { header: { 'Idempotency-Key': key } },
        body: { version: data.value!.version, rounds, mail: mail.value },
      }),
    )
    note.value = `${count(out.length, 'round')} sent out.`
  })
const lock = (r: Schemas['PlannedRound']) =>
  act(() =>
    ask(
      api.POST('/plan/locks', {
        body: { version: data.value!.version, crew_id: r.crew_id, day: r.day, locked: !r.locked },
      }),
    ),
  )
const digest = () =>
  act(async () => {
    const m = await ask(api.POST('/digest', { body: { to: digestTo.value || undefined } }))
    note.value = `Digest for ${m.to}: ${m.status}. It goes out every Monday from now on.`
  })
const remind = () =>
  act(async () => {
    const m = await ask(api.POST('/reminders'))
    note.value = m.length
      ? `${count(m.length, 'site')} reminded.`
      : 'Nobody to remind: sent already this week, or nothing of theirs is due.'
  })
</script>

<template>
  <section class="screen">
    <LoadState :loading="loading && !data" :problem="problem" what="the plan" @retry="everything" />
    <template v-if="data">
      <div class="screen-head">
        <div class="answer">
          <h1 v-if="!data.id">The weeks are not planned yet.</h1>
          <h1 v-else>
            {{ count(data.rounds.filter((r) => r.stops.length).length, 'round') }} in
            {{ Math.round(data.days / 7) }} weeks<template v-if="data.sums"
              >: {{ percent(data.sums.saving_share) }} cheaper than by due date</template
            >.
          </h1>
          <p v-if="data.id">
            <template v-if="data.sums"
              >{{ money(data.sums.cost.total) }} instead of {{ money(data.sums.greedy_cost.total) }}. No plan
              can be cheaper than {{ money(data.sums.bound) }}; this one is at most
              {{ percent(data.sums.gap_share) }} above the best.
            </template>
            <template v-else>What is planned at your sites. </template>
            <span v-if="data.left_out.length" class="soft"
              >{{ count(data.left_out.length, 'job is', 'jobs are') }} on no round, see below.</span
            >
          </p>
          <p v-for="n in data.notes" :key="n" class="soft">{{ n }}</p>
        </div>
        <PlanWeeks v-if="mayManageHouse()" :again="Boolean(data.id)" @done="everything" />
      </div>
      <HourPrice v-if="mayManageHouse()" />
      <ProblemNote :problem="refused" />
      <p v-if="note" class="notice" role="status">{{ note }}</p>
      <p v-if="data.id && data.stale" class="notice">
        Something has changed since this plan was made on
        {{ shortDay(data.made_at?.slice(0, 10) ?? data.start)
        }}<template v-if="mayManageHouse()"
          >: plan again. What is published stays unless moving it gains more than its price</template
        >.
      </p>
      <div v-if="data.changes.length" class="changes">
        <h2>
          What moved since the last plan<template v-if="data.sums"
            >, and what that costs: {{ data.sums.changes_cost < 0 ? '−' : '+'
            }}{{ money(Math.abs(data.sums.changes_cost)) }}</template
          >
        </h2>
        <ul>
          <li v-for="(c, i) in data.changes.slice(0, 12)" :key="i">
            <strong>{{ c.tag }}</strong> {{ jobWords[c.kind] }}: {{ c.text }}
          </li>
          <li v-if="data.changes.length > 12" class="soft">and {{ data.changes.length - 12 }} more</li>
        </ul>
      </div>
      <p v-if="changed.length" class="notice">
        {{ count(changed.length, 'published round differs', 'published rounds differ') }} from the plan:
        choose and publish to send the change, or leave them as published.
      </p>

      <div v-if="data.id" class="two">
        <div>
          <div class="bar no-print">
            <h2>Rounds</h2>
            <template v-if="mayManageHouse()">
              <ElButton size="small" @click="firstWeek">Choose the next week</ElButton>
              <ElCheckbox v-model="mail">mail to the crews</ElCheckbox>
              <ElButton size="small" type="primary" :disabled="!chosen.size" :loading="busy" @click="publish"
                >Publish {{ chosen.size || '' }}</ElButton
              >
            </template>
            <span class="files"
              ><a href="/api/v1/plan/export?format=csv" download>CSV</a>
              <a href="/api/v1/plan/export?format=xlsx" download>XLSX</a></span
            >
          </div>
          <div class="list">
            <table class="lines">
              <thead>
                <tr>
                  <th v-if="mayManageHouse()" scope="col"><span class="visually-hidden">Publish</span></th>
                  <th scope="col">Day and crew</th>
                  <th scope="col">Stops</th>
                  <th scope="col" class="number">Of the shift</th>
                  <th scope="col">Status</th>
                </tr>
              </thead>
              <tbody>
                <tr
                  v-for="r in data.rounds"
                  :key="idOf(r)"
                  :class="{ on: idOf(r) === shown }"
                  @click="shown = idOf(r)"
                >
                  <td v-if="mayManageHouse()">
                    <ElCheckbox
                      v-if="r.status !== 'published'"
                      :model-value="chosen.has(idOf(r))"
                      :aria-label="`Publish ${r.crew}, ${r.day}`"
                      @update:model-value="(v) => pick(r, Boolean(v))"
                    />
                  </td>
                  <td class="nowrap">
                    <button type="button" class="plain" @click="shown = idOf(r)">
                      {{ longDay(r.day).replace(/ \d{4}$/, '') }}</button><br /><span class="soft"
                      >{{ r.crew }}, {{ r.leaves }}–{{ r.back }}</span
                    >
                  </td>
                  <td>
                    {{ r.stops.map((s) => s.site).join(', ') }}
                    <span class="soft">{{ count(jobsOf(r), 'job') }}</span>
                  </td>
                  <td class="number nowrap">
                    {{ r.shift_minutes ? percent(r.minutes / r.shift_minutes) : '–' }}
                    <div v-if="r.overtime_minutes >= 1" class="soft">
                      {{ Math.round(r.overtime_minutes) }} min over
                    </div>
                  </td>
                  <td>
                    <RouterLink v-if="r.round_id" :to="`/rounds/${r.round_id}`">{{
                      standing[r.status]
                    }}</RouterLink><template v-else>{{ standing[r.status] }}</template>
                    <span v-if="r.locked" class="soft"> locked</span>
                    <ElButton
                      v-if="mayManageHouse() && r.stops.length"
                      size="small"
                      text
                      :aria-label="`${r.locked ? 'Unlock' : 'Lock'} ${r.crew}, ${r.day}`"
                      @click.stop="lock(r)"
                      >{{ r.locked ? 'unlock' : 'lock' }}</ElButton
                    >
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
        </div>
        <div>
          <h2 v-if="data.sums">Compared with planning by due date</h2>
          <table v-if="data.sums" class="lines cost">
            <thead>
              <tr>
                <th scope="col">{{ session?.currency }}</th>
                <th scope="col" class="number">by due date</th>
                <th scope="col" class="number">planned</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="p in parts" :key="p.name">
                <td>{{ p.name }}</td>
                <td class="number">{{ p.greedy.toFixed(0) }}</td>
                <td class="number">{{ p.plan.toFixed(0) }}</td>
              </tr>
              <tr class="sum">
                <td>Total</td>
                <td class="number">{{ data.sums.greedy_cost.total.toFixed(0) }}</td>
                <td class="number">{{ data.sums.cost.total.toFixed(0) }}</td>
              </tr>
            </tbody>
          </table>
          <DriveMap v-if="drawn" :plan="data" :round="drawn" />
        </div>
      </div>

      <div v-if="data.weeks.length" class="two">
        <div>
          <h2>Hours planned, of each crew's week</h2>
          <div class="scroll-x">
            <table class="lines load">
              <thead>
                <tr>
                  <th scope="col">Week of</th>
                  <th v-for="c in data.crews" :key="c.id" scope="col">{{ c.name }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="[from, all] in weeks" :key="from">
                  <td class="nowrap">{{ shortDay(from) }}</td>
                  <td v-for="w in all" :key="w.crew" :title="crewName(w.crew)">
                    <span class="meter"
                      ><i
                        :style="{
                          width: `${Math.min(100, (100 * w.planned_minutes) / (w.shift_minutes || 1))}%`,
                        }"
                      ></i
                    ></span>
                    {{ Math.round(w.planned_minutes / 60) }} of {{ Math.round(w.shift_minutes / 60) }} h
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
        </div>
        <div>
          <h2>Work by month: planned beside what falls due</h2>
          <table class="lines">
            <thead>
              <tr>
                <th scope="col">From</th>
                <th scope="col" class="number">due</th>
                <th scope="col" class="number">planned</th>
                <th scope="col" class="number">crews' hours</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="m in data.months" :key="m.month">
                <td>{{ shortDay(m.month) }}</td>
                <td class="number">{{ Math.round(m.due_minutes / 60) }} h</td>
                <td class="number">{{ Math.round(m.planned_minutes / 60) }} h</td>
                <td class="number">{{ Math.round(m.shift_minutes / 60) }} h</td>
              </tr>
            </tbody>
          </table>
          <p class="soft">What is overdue counts in the first month. Driving and stops come on top.</p>
          <template v-if="buy.data.value?.length">
            <h2>To buy</h2>
            <ul class="plainlist">
              <li v-for="b in buy.data.value" :key="b.what">
                {{ b.text }}<template v-if="b.cost"> ({{ money(b.cost) }})</template>,
                <strong>needed {{ shortDay(b.needed_by) }}</strong
                ><template v-if="b.order_by">, order by {{ shortDay(b.order_by) }}</template>
              </li>
            </ul>
          </template>
        </div>
      </div>

      <template v-if="data.left_out.length">
        <h2>Not on any round</h2>
        <table class="lines">
          <tbody>
            <tr v-for="l in data.left_out" :key="l.job.key">
              <td class="nowrap">
                <RouterLink :to="`/units/${l.job.unit_id}`">{{ l.job.tag }}</RouterLink>
                {{ jobWords[l.job.kind] }}
              </td>
              <td>{{ l.site }}</td>
              <td>due {{ shortDay(l.job.due) }}</td>
              <td>{{ l.text }}</td>
            </tr>
          </tbody>
        </table>
      </template>

      <template v-if="data.staff_jobs.length">
        <div class="bar">
          <h2>By the sites' own staff</h2>
          <ElButton v-if="mayManageHouse()" size="small" @click="remind">Remind them of this week</ElButton>
        </div>
        <p>
          <span v-for="(j, i) in data.staff_jobs.slice(0, 12)" :key="i"
            ><template v-if="i">; </template>{{ j.tag }} {{ jobWords[j.kind] }} {{ shortDay(j.due) }}</span
          >{{ data.staff_jobs.length > 12 ? ` and ${data.staff_jobs.length - 12} more` : '' }}.
        </p>
      </template>
      <form v-if="mayManageHouse() && data.id" class="bar no-print" novalidate @submit.prevent="digest">
        <h2>Weekly digest</h2>
        <ElInput
          v-model="digestTo"
          class="to"
          type="email"
          placeholder="mail address"
          aria-label="Mail address for the digest"
        />
        <ElButton size="small" native-type="submit">Send now and every Monday</ElButton>
      </form>
      <details v-if="mayManageHouse() && data.id" class="no-print">
        <summary>Who made, moved and locked this plan</summary>
        <HistoryList :id="data.id" :key="`${data.id} ${data.version}`" entity="plan" />
        <p class="soft">
          What was moved stands with its unit as well, a locked round with its crew under People.
        </p>
      </details>
    </template>

    <h2 class="out">Published rounds</h2>
    <LoadState
      :loading="sent.loading.value && !sent.data.value"
      :problem="sent.problem.value"
      what="the rounds"
      @retry="everything"
    />
    <p v-if="sent.data.value && !sent.data.value.length" class="soft">No round was published yet.</p>
    <table v-if="sent.data.value?.length" class="lines">
      <thead>
        <tr>
          <th scope="col">Day</th>
          <th scope="col">Crew</th>
          <th scope="col" class="number">Stops</th>
          <th scope="col" class="number">Jobs</th>
          <th scope="col" class="number">Of hours</th>
          <th scope="col">Status</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in sent.data.value" :key="r.id">
          <td>
            <RouterLink :to="`/rounds/${r.id}`">{{ longDay(r.day) }}</RouterLink>
          </td>
          <td>{{ r.crew }}</td>
          <td class="number">{{ r.stops }}</td>
          <td class="number">{{ r.jobs }}</td>
          <td class="number">{{ duration(r.minutes) }} of {{ duration(r.hours_minutes) }}</td>
          <td>{{ upperFirst(r.status) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(320px, 1fr);
  gap: 18px 36px;
  margin-bottom: 22px;
}
h2 {
  font-size: 15px;
  margin: 14px 0 6px;
}
.answer {
  flex: 1 1 460px;
}
.answer p {
  margin-top: 4px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
}
.files {
  margin-left: auto;
  display: flex;
  gap: 12px;
}
.list {
  max-height: 560px;
  overflow-y: auto;
}
.on td {
  background: var(--petrol-tint);
}
.plain {
  border: 0;
  background: none;
  font: inherit;
  color: var(--petrol);
  padding: 0;
  cursor: pointer;
  text-align: left;
}
.cost .sum td {
  font-weight: 650;
  border-top: 1px solid var(--ink);
}
.meter {
  display: inline-block;
  width: 64px;
  height: 9px;
  background: var(--shade);
  border: 1px solid var(--hairline);
  margin-right: 6px;
}
.meter i {
  display: block;
  height: 100%;
  background: var(--petrol);
}
.changes ul,
.plainlist {
  list-style: none;
  padding: 0;
  margin: 0;
}
.plainlist li,
.changes li {
  padding: 3px 0;
}
.to {
  width: 240px;
}
.out {
  margin-top: 26px;
}
@media (max-width: 1000px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
