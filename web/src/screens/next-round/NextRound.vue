<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import CoilComb from '../../parts/CoilComb.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import SiltKey from '../../parts/SiltKey.vue'
import { useLoad } from '../../parts/useLoad'
import { loadCatalogue, mayManage } from '../../session'
import { count, dueWords, duration, kindWords, longDay, roleWords, schoolWords, shortDay } from '../../words'
import WindowLine from '../rounds/WindowLine.vue'
import AttentionList from './AttentionList.vue'

const route = useRoute()
const router = useRouter()
const asString = (v: unknown) => (typeof v === 'string' && v ? v : undefined)
const query = computed(() => ({ crew_id: asString(route.query.crew), day: asString(route.query.day) }))

const catalogue = useLoad(loadCatalogue)
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/next-round', { params: { query: query.value } })),
)
watch(query, () => void reload())

const left = ref(new Set<string>())
watch(data, () => (left.value = new Set()))
const publishing = ref(false)
const refused = ref<ApiProblem | null>(null)
let key = crypto.randomUUID()

const stops = computed(() =>
  (data.value?.stops ?? []).map((stop) => ({
    stop,
    jobs: stop.jobs.filter((j) => !left.value.has(j.task_id)),
  })),
)
const chosen = computed(() => stops.value.flatMap((s) => s.jobs))
const going = computed(() => stops.value.filter((s) => s.jobs.length > 0))
const minutes = computed(
  () =>
    chosen.value.reduce((sum, j) => sum + j.minutes, 0) +
    going.value.length * (data.value?.stop_minutes ?? 0),
)
const coils = computed(() => new Set(chosen.value.map((j) => j.coil_id)).size)
const over = computed(() => {
  const late = chosen.value.filter((j) => j.days_late > 0 && !j.first_look)
  const limit = chosen.value.filter((j) => j.reasons.some((r) => r.code === 'over_limit')).length
  const looks = chosen.value.filter((j) => j.first_look).length
  const parts: string[] = []
  if (late.length) parts.push(`${count(late.length, 'job is', 'jobs are')} late`)
  if (limit) parts.push(`${count(limit, 'coil is', 'coils are')} expected over the limit`)
  if (looks) parts.push(`${count(looks, 'coil has', 'coils have')} no clean known`)
  return parts.length ? `Why these: ${parts.join('; ')}.` : ''
})

function toggle(job: Schemas['Job'], on: boolean) {
  const next = new Set(left.value)
  if (on) next.delete(job.task_id)
  else next.add(job.task_id)
  left.value = next
  key = crypto.randomUUID()
}

function ask4(change: { crew?: string; day?: string }) {
  void router.replace({ query: { ...route.query, ...change } })
}

async function publish() {
  const d = data.value
  if (!d?.crew_id) return
  publishing.value = true
  refused.value = null
  try {
    const round = await ask(
      api.POST('/rounds', {
        params: { header: { 'Idempotency-Key': key } },
        body: { crew_id: d.crew_id, day: d.day, task_ids: chosen.value.map((j) => j.task_id) },
      }),
    )
    await router.push(`/rounds/${round.id}`)
  } catch (e) {
    refused.value = problemOf(e)
  } finally {
    publishing.value = false
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
            <h1 v-if="!data.crew">No crew yet: a round needs one.</h1>
            <h1 v-else-if="data.published_round_id">
              {{ longDay(data.day) }}: {{ data.crew }} already has a round.
              <RouterLink :to="`/rounds/${data.published_round_id}`">See it</RouterLink>
            </h1>
            <h1 v-else-if="!data.hours_minutes">{{ longDay(data.day) }}: {{ data.crew }} does not work.</h1>
            <h1 v-else-if="!going.length">{{ longDay(data.day) }}: nothing is due for {{ data.crew }}.</h1>
            <h1 v-else>
              {{ longDay(data.day) }}: {{ data.crew }} cleans {{ count(coils, 'coil') }} at
              {{ count(going.length, 'site') }} in {{ duration(minutes) }}.
            </h1>
            <p v-if="going.length">
              {{ over }}
              <span class="soft"
                >Of {{ duration(data.hours_minutes) }} from {{ data.starts }}, {{ data.stop_minutes }} min
                counted at each stop; travel and opening hours are not planned yet.</span
              >
            </p>
            <p v-if="going.length && minutes > data.hours_minutes" class="over">
              More than the crew's hours.
            </p>
          </div>
          <div class="actions no-print">
            <ElButton
              v-if="mayManage()"
              type="primary"
              size="large"
              :loading="publishing"
              :disabled="!going.length"
              @click="publish"
              >Publish round</ElButton
            >
          </div>
        </div>
        <ProblemNote :problem="refused" />
        <div class="choose">
          <label>
            <span class="label">Crew</span>
            <ElSelect
              :model-value="data.crew_id"
              aria-label="Crew"
              placeholder="none"
              @update:model-value="(v: string) => ask4({ crew: v })"
            >
              <ElOption
                v-for="c in catalogue.data.value?.crews ?? []"
                :key="c.id"
                :value="c.id"
                :label="c.name"
              />
            </ElSelect>
          </label>
          <label>
            <span class="label">Day</span>
            <ElInput
              type="date"
              :model-value="data.day"
              :min="data.today"
              @change="(v: string) => ask4({ day: v })"
            />
          </label>
          <p class="soft">
            Due up to {{ shortDay(data.due_through) }} is considered, earliest first, whole sites while they
            fit.
          </p>
        </div>

        <div v-if="data.stops.length" class="scroll-x">
          <table class="lines">
            <thead>
              <tr>
                <th scope="col">Goes</th>
                <th scope="col">Unit and coil</th>
                <th scope="col">Work</th>
                <th scope="col">Soil expected</th>
                <th scope="col">Why</th>
                <th scope="col" class="number">Time</th>
              </tr>
            </thead>
            <tbody v-for="(s, i) in stops" :key="s.stop.site_id">
              <tr class="site">
                <th scope="rowgroup" colspan="5">
                  <h2>{{ i + 1 }}. {{ s.stop.site }}</h2>
                  <span class="soft">{{ s.stop.reasons.map((r) => r.text).join(' ') }}</span>
                  <WindowLine :windows="s.stop.windows" />
                </th>
                <td class="number">
                  {{
                    s.jobs.length ? duration(s.jobs.reduce((t, j) => t + j.minutes, data.stop_minutes)) : '–'
                  }}
                </td>
              </tr>
              <tr v-for="j in s.stop.jobs" :key="j.task_id" :class="{ out: left.has(j.task_id) }">
                <td>
                  <ElCheckbox
                    :model-value="!left.has(j.task_id)"
                    :aria-label="`${j.tag}, ${roleWords[j.coil_role]}, ${kindWords[j.kind]} goes on the round`"
                    @update:model-value="(v) => toggle(j, Boolean(v))"
                  />
                </td>
                <td class="unit">
                  <RouterLink :to="`/units/${j.unit_id}`">{{ j.tag }}</RouterLink> {{ roleWords[j.coil_role]
                  }}<br /><span class="soft">{{ j.class }}, {{ j.placement }}</span>
                </td>
                <td class="nowrap">{{ kindWords[j.kind] }}</td>
                <td><CoilComb :state="j.state" /></td>
                <td class="why">
                  <span v-for="r in j.reasons" :key="r.code" :class="{ over: r.code === 'over_limit' }">{{
                    `${r.text} `
                  }}</span>
                </td>
                <td class="number">{{ duration(j.minutes) }}</td>
              </tr>
            </tbody>
          </table>
          <SiltKey />
          <p class="soft">Soil is expected at each class's assumed rate until findings say otherwise.</p>
        </div>
        <p v-else-if="data.crew" class="notice">
          Nothing goes out that day.
          <RouterLink to="/portfolio">See what falls due when</RouterLink>
        </p>

        <template v-if="data.left_out.length">
          <h2 class="later">Due too, but not on this round</h2>
          <table class="lines">
            <tbody>
              <tr v-for="l in data.left_out" :key="l.site">
                <td>
                  <strong>{{ l.site }}</strong>
                </td>
                <td>{{ l.jobs.map((j) => `${j.tag} ${kindWords[j.kind]} (${dueWords(j)})`).join('; ') }}</td>
                <td class="soft">{{ l.reason.text }}</td>
              </tr>
            </tbody>
          </table>
        </template>
      </div>

      <aside aria-labelledby="waiting">
        <AttentionList v-if="mayManage()" />
        <h2 id="waiting">Waiting for you</h2>
        <p v-if="!data.waiting.length" class="soft">No interval waits for an answer.</p>
        <ul class="waiting">
          <li v-for="w in data.waiting" :key="w.unit_id + w.coil_role + w.kind">
            <RouterLink :to="`/units/${w.unit_id}`">{{ w.tag }} {{ roleWords[w.coil_role] }}</RouterLink>
            <span class="soft">, {{ w.site }}</span>
            <div>
              {{ kindWords[w.kind] }} every {{ w.from_days }} d → <strong>{{ w.days }} d</strong>
            </div>
            <div class="soft">{{ schoolWords[w.school] }}. {{ w.text }}</div>
          </li>
        </ul>
      </aside>
    </div>
  </section>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 36px;
}
.answer {
  flex: 1 1 420px;
}
.answer p {
  margin-top: 6px;
}
.choose {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: end;
  margin-bottom: 8px;
}
.choose label {
  width: 180px;
}
.site th {
  padding-top: 14px;
  color: var(--ink);
}
.site h2 {
  display: inline;
  margin-right: 10px;
}
.site td {
  padding-top: 14px;
  vertical-align: bottom;
  font-weight: 650;
}
.unit {
  min-width: 230px;
}
.why {
  min-width: 240px;
}
.out td {
  text-decoration: line-through;
  color: var(--ink-soft);
}
.later {
  margin: 26px 0 6px;
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
:deep(.el-checkbox) {
  height: 24px;
}
@media (max-width: 1000px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
