<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import CoilComb from '../../parts/CoilComb.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManage, mayManageHouse, session } from '../../session'
import { count, duration, jobWords, kindWords, longDay, roleWords, schoolWords } from '../../words'
import PlanWeeks from '../rounds/PlanWeeks.vue'
import WindowLine from '../rounds/WindowLine.vue'
import AttentionList from './AttentionList.vue'
import FoundList from './FoundList.vue'
import ForecastStrips from './ForecastStrips.vue'
import LoadList from './LoadList.vue'

const route = useRoute()
const router = useRouter()
const asString = (v: unknown) => (typeof v === 'string' && v ? v : undefined)
const query = computed(() => ({ crew_id: asString(route.query.crew), day: asString(route.query.day) }))

const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/next-round', { params: { query: query.value } })),
)
const forecast = useLoad(() => ask(api.GET('/plan/forecast')))
watch(query, () => void reload())

const publishing = ref(false)
const keeping = ref(false)
const refused = ref<ApiProblem | null>(null)
let key = crypto.randomUUID()

const next = computed(() => data.value?.round)
const money = (v: number) => `${v.toFixed(2)} ${session.value?.currency ?? ''}`
/** The job of a stop that shows its soil: the worst. */
const worst = (s: Schemas['Stop']) =>
  [...s.jobs].sort((a, b) => (b.state.blocked_share ?? 0) - (a.state.blocked_share ?? 0))[0]
const week = (s: Schemas['Stop']) => s.jobs.reduce((t, j) => t + (j.week_cost ?? 0), 0)
const jobs = computed(() => (next.value?.stops ?? []).reduce((n, s) => n + s.jobs.length, 0))

function choose(change: { crew?: string; day?: string }) {
  void router.replace({ query: { ...route.query, ...change } })
}
async function again() {
  await Promise.all([reload(), forecast.reload()])
}
async function publish() {
  const d = data.value
  if (!d?.round) return
  publishing.value = true
  refused.value = null
  try {
    const sent = await ask(
      api.POST('/plan/publication', {
        params: { header: { 'Idempotency-Key': key } },
        body: { version: d.version, rounds: [{ crew_id: d.round.crew_id, day: d.round.day }] },
      }),
    )
    key = crypto.randomUUID()
    await router.push(`/rounds/${sent[0]?.id}`)
  } catch (e) {
    refused.value = problemOf(e)
  } finally {
    publishing.value = false
  }
}
async function keep(moves: { key: string; day: string }[]) {
  keeping.value = true
  refused.value = null
  try {
    await ask(api.POST('/plan/moves', { body: { version: forecast.data.value?.version ?? 0, moves } }))
    await again()
  } catch (e) {
    refused.value = problemOf(e)
  } finally {
    keeping.value = false
  }
}
</script>

<template>
  <section class="screen">
    <LoadState :loading="loading && !data" :problem="problem" what="the next round" @retry="reload" />
    <div v-if="data" class="columns">
      <div>
        <div class="screen-head">
          <div class="answer">
            <h1 v-if="!data.has_plan">The weeks are not planned yet.</h1>
            <h1 v-else-if="!next && (query.day || query.crew_id)">
              Nothing is planned for that crew and day.
            </h1>
            <h1 v-else-if="!next">Every planned round is published.</h1>
            <h1 v-else>
              {{ longDay(next.day) }}: {{ next.crew }}
              {{
                data.coils ? `cleans or looks at ${count(data.coils, 'coil')}` : `does ${count(jobs, 'job')}`
              }}
              at {{ count(next.stops.length, 'site') }}, {{ next.leaves }} to {{ next.back }}.
            </h1>
            <template v-if="next">
              <p>
                Waiting one more week would cost <strong>{{ money(data.week_cost) }}</strong><template
                  v-if="data.week_cost_most"
                  >, most of it at {{ data.week_cost_most }}</template
                >. {{ data.cold }}
              </p>
              <p class="soft">
                {{ duration(next.minutes) }} of {{ duration(next.shift_minutes) }}:
                {{ duration(next.work_minutes) }} work, {{ duration(next.driving_minutes) }} driving<template
                  v-if="next.overtime_minutes >= 1"
                  >, {{ duration(next.overtime_minutes) }} overtime</template
                >.
                <template v-if="next.status === 'changed'"
                  >It is published; the plan has changed since.</template
                >
                <template v-if="next.status === 'published'"
                  >It is published. <RouterLink :to="`/rounds/${next.round_id}`">See it</RouterLink></template
                >
              </p>
            </template>
            <p v-else-if="!data.has_plan">
              Every due task becomes a job with its price of waiting; the planner weighs that against driving,
              stops and the crews' hours.
            </p>
          </div>
          <div class="actions no-print">
            <ElButton
              v-if="mayManageHouse() && next && next.status !== 'published'"
              type="primary"
              size="large"
              :loading="publishing"
              @click="publish"
              >Publish round</ElButton
            >
          </div>
        </div>
        <ProblemNote :problem="refused" />
        <p v-if="data.has_plan && data.stale" class="notice">
          Something has changed since this was planned.
          <RouterLink v-if="mayManageHouse()" to="/rounds">Plan again under Rounds</RouterLink>
        </p>
        <PlanWeeks v-if="!data.has_plan && mayManageHouse()" :again="false" @done="again" />

        <div v-if="next" class="scroll-x">
          <table class="lines">
            <thead>
              <tr>
                <th scope="col">Arrive</th>
                <th scope="col">Stop</th>
                <th scope="col">Work</th>
                <th scope="col">Soil now</th>
                <th scope="col" class="number">Wait a week</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="s in next.stops" :key="s.site_id + s.arrive">
                <td class="arrive">
                  <strong>{{ s.arrive }}</strong><br /><span class="soft">latest {{ s.latest }}</span>
                </td>
                <td class="stop">
                  <RouterLink :to="`/sites/${s.site_id}`">{{ s.site }}</RouterLink>
                  <WindowLine :windows="s.windows" />
                </td>
                <td>
                  <details>
                    <summary>
                      <span v-for="(j, i) in s.jobs" :key="j.key"
                        ><template v-if="i">; </template>{{ j.tag }} {{ jobWords[j.kind]
                        }}<template v-if="j.riders.length">
                          with {{ j.riders.map((r) => jobWords[r.kind]).join(', ') }}</template
                        ></span
                      >
                      <span class="soft">
                        · {{ duration(s.jobs.reduce((t, j) => t + j.minutes, 0)) }}, why</span
                      >
                    </summary>
                    <dl>
                      <template v-for="j in s.jobs" :key="j.key">
                        <dt>
                          {{ j.starts }}
                          <RouterLink :to="`/units/${j.unit_id}`">{{ j.tag }}</RouterLink>
                          <template v-if="j.coil_role">{{ ` ${roleWords[j.coil_role]}` }}</template>,
                          {{ jobWords[j.kind] }}, {{ duration(j.minutes)
                          }}<template v-if="j.needs.length">; {{ j.needs.join(', ') }}</template>
                        </dt>
                        <dd>
                          {{ j.reasons.map((r) => r.text).join(' ') }}
                          {{ j.riders.map((r) => r.text).join(' ') }}
                        </dd>
                      </template>
                    </dl>
                  </details>
                </td>
                <td><CoilComb v-if="worst(s)" :state="worst(s)!.state" /></td>
                <td class="number">
                  <strong>{{ week(s).toFixed(2) }}</strong>
                </td>
              </tr>
            </tbody>
          </table>
          <LoadList :load="data.load" />
        </div>
        <div v-if="data.has_plan" class="choose no-print">
          <label>
            <span class="label">Another crew</span>
            <ElSelect
              :model-value="query.crew_id"
              aria-label="Crew"
              placeholder="whoever is next"
              clearable
              @update:model-value="(v: string) => choose({ crew: v || undefined })"
            >
              <ElOption v-for="c in data.crews" :key="c.id" :value="c.id" :label="c.name" />
            </ElSelect>
          </label>
          <label>
            <span class="label">Another day</span>
            <ElInput
              type="date"
              :model-value="query.day ?? next?.day"
              :min="data.today"
              @change="(v: string) => choose({ day: v })"
            />
          </label>
          <RouterLink to="/rounds">All rounds of the plan</RouterLink>
        </div>
        <ForecastStrips
          v-if="forecast.data.value?.weeks.length"
          :forecast="forecast.data.value"
          :keeping="keeping"
          @keep="keep"
        />
      </div>

      <aside aria-labelledby="waiting">
        <FoundList v-if="mayManage()" />
        <AttentionList v-if="mayManage()" />
        <h2 id="waiting">Waiting for you</h2>
        <p v-if="!data.waiting.length" class="soft">No interval waits for an answer.</p>
        <ul class="waiting">
          <li v-for="w in data.waiting.slice(0, 8)" :key="w.unit_id + w.coil_role + w.kind">
            <RouterLink :to="`/units/${w.unit_id}`">{{ w.tag }} {{ roleWords[w.coil_role] }}</RouterLink>
            <span class="soft">, {{ w.site }}</span>
            <div>
              {{ kindWords[w.kind] }} every {{ w.from_days }} d → <strong>{{ w.days }} d</strong>
            </div>
            <div class="soft">{{ schoolWords[w.school] }}. {{ w.text }}</div>
          </li>
        </ul>
        <p v-if="data.waiting.length > 8">
          <RouterLink to="/portfolio?proposed=true"
            >{{ data.waiting.length - 8 }} more in the portfolio</RouterLink
          >
        </p>
      </aside>
    </div>
  </section>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 290px;
  gap: 36px;
}
.answer {
  flex: 1 1 420px;
}
.answer p {
  margin-top: 4px;
}
.choose {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: end;
  margin-top: 14px;
}
.choose label {
  width: 170px;
}
.arrive {
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.stop {
  min-width: 150px;
}
summary {
  cursor: pointer;
}
dl {
  margin: 6px 0 0;
}
dt {
  margin-top: 6px;
}
dd {
  margin: 0;
  color: var(--ink-soft);
  font-size: 14px;
}
aside h2 {
  font-size: 15px;
  color: var(--ink-soft);
  border-bottom: 1px solid var(--hairline);
  padding-bottom: 6px;
}
.waiting {
  list-style: none;
  margin: 0;
  padding: 0;
}
.waiting li {
  padding: 8px 0;
  border-bottom: 1px solid var(--hairline);
}
@media (max-width: 1000px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
