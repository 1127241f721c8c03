<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, problemOf, type ApiProblem, type Schemas } from '../../api/client'
import CoilComb from '../../parts/CoilComb.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import SiltKey from '../../parts/SiltKey.vue'
import { useLoad } from '../../parts/useLoad'
import { loadCatalogue, mayManage, mayManageHouse, session } from '../../session'
import {
  count,
  dueWords,
  percent,
  qualityWords,
  rateFromWords,
  roleWords,
  shortDay,
  statusWords,
} from '../../words'
import AcceptProposals from './AcceptProposals.vue'
import BulkChange from './BulkChange.vue'
import SavedFilters from './SavedFilters.vue'
import SiteMap from './SiteMap.vue'

const route = useRoute()
const router = useRouter()

/** The filters live in the address, so that a filtered list can be shared. */
const text = computed(() => String(route.query.q ?? ''))
const site = computed(() => String(route.query.site ?? ''))
const kind = computed(() => String(route.query.class ?? ''))
const status = computed(() => String(route.query.status ?? ''))
const due = computed(() => route.query.due === '1')
const proposed = computed(() => route.query.proposed === '1')
const grade = computed(() => Number(route.query.grade ?? 0))
type Sort = 'site' | 'class' | 'tag' | 'due' | 'soil' | 'wait' | 'rate'
const sort = computed(
  () =>
    (['class', 'tag', 'due', 'soil', 'wait', 'rate'].includes(String(route.query.sort))
      ? route.query.sort
      : 'site') as Sort,
)
const asMap = computed(() => route.query.view === 'map')
function filter(change: Record<string, string | undefined>) {
  void router.replace({ query: { ...route.query, ...change } })
}

const query = computed(() => ({
  q: text.value || undefined,
  site_id: site.value || undefined,
  class_id: kind.value || undefined,
  status: (status.value || undefined) as Schemas['UnitStatus'] | undefined,
  due: due.value || undefined,
  proposed: proposed.value || undefined,
  min_grade: grade.value || undefined,
}))
const page = useLoad(() =>
  ask(api.GET('/portfolio', { params: { query: { ...query.value, sort: sort.value, limit: 100 } } })),
)
const summary = useLoad(() => ask(api.GET('/portfolio/summary', { params: { query: query.value } })))
const sites = useLoad(() => ask(api.GET('/sites')))
const catalogue = useLoad(loadCatalogue)
const rows = ref<Schemas['PortfolioRow'][]>([])
const next = ref<string | undefined>()
watch(page.data, (p) => {
  rows.value = p?.rows ?? []
  next.value = p?.next
})
watch([query, sort], () => {
  chosen.value = new Set()
  void page.reload()
  void summary.reload()
})

const more = ref(false)
const moreFailed = ref<ApiProblem | null>(null)
async function showMore() {
  more.value = true
  moreFailed.value = null
  try {
    const p = await ask(
      api.GET('/portfolio', {
        params: { query: { ...query.value, sort: sort.value, limit: 100, after: next.value } },
      }),
    )
    rows.value = [...rows.value, ...p.rows]
    next.value = p.next
  } catch (e) {
    moreFailed.value = problemOf(e)
  } finally {
    more.value = false
  }
}

/** Rows under their site when sorted by it; each unit is named once. */
const groups = computed(() => {
  const out: { name: string; id: string; rows: { row: Schemas['PortfolioRow']; first: boolean }[] }[] = []
  for (const row of rows.value) {
    const name = sort.value === 'site' ? row.site : sort.value === 'class' ? row.class : ''
    let last = out.at(-1)
    if (!last || last.name !== name)
      out.push((last = { name, id: sort.value === 'site' ? row.site_id : '', rows: [] }))
    last.rows.push({ row, first: last.rows.at(-1)?.row.unit_id !== row.unit_id })
  }
  return out
})

const chosen = ref(new Set<string>())
function choose(unit: string, on: boolean) {
  const next = new Set(chosen.value)
  if (on) next.add(unit)
  else next.delete(unit)
  chosen.value = next
}
const everyUnit = computed(() => [...new Set(rows.value.map((r) => r.unit_id))])
const allChosen = computed(
  () => everyUnit.value.length > 0 && everyUnit.value.every((u) => chosen.value.has(u)),
)
const changing = ref(false)
const accepting = ref(false)
/** Open proposals of the units chosen. */
const proposals = computed(() =>
  rows.value
    .filter((r) => chosen.value.has(r.unit_id))
    .flatMap((r) => r.coil.tasks.flatMap((t) => (t.proposal_id ? [t.proposal_id] : []))),
)
async function changed() {
  await Promise.all([page.reload(), summary.reload()])
}

const filtered = computed(() => Object.values(query.value).some((v) => v !== undefined))
const headline = computed(() => {
  const s = summary.data.value
  if (!s) return 'Portfolio'
  if (!s.all_units) return 'No units yet.'
  const what = `${count(s.units, 'unit')} with ${count(s.coils, 'coil')} at ${count(s.sites, 'site')}`
  return `${what}; ${s.due === 0 ? 'nothing is due today' : `${count(s.due, 'coil')} due today or late`}.`
})
const sortWords: Record<Sort, string> = {
  site: 'Site',
  class: 'Class',
  tag: 'Tag',
  due: 'Next due',
  soil: 'Most soil',
  wait: 'Price of waiting',
  rate: 'Rate',
}
const columns = computed(() => (mayManage() ? 12 : 11))
const labels = computed(() => {
  const q = new URLSearchParams()
  for (const [k, v] of Object.entries(query.value)) if (v !== undefined) q.set(k, String(v))
  return `/api/v1/labels?${q}`
})
</script>

<script lang="ts">
/** The dearest wait of a coil's tasks; undefined while nothing is known of its soil. */
const waitOf = (c: Schemas['CoilLine']) => {
  const all = c.tasks.flatMap((t) => (t.wait_week === undefined ? [] : [t.wait_week]))
  return all.length ? Math.max(...all) : undefined
}
/** How much of that money is assumed. */
const waitTitle = (c: Schemas['CoilLine']) => {
  const share = c.tasks.find((t) => t.assumed_share !== undefined)?.assumed_share
  return share === undefined ? '' : `${percent(share)} of this money is assumed`
}
const rateTitle = (c: Schemas['CoilLine']) =>
  c.rate_per_30_days === undefined
    ? ''
    : `${c.rate_per_30_days.toFixed(3)} load in 30 days, ${rateFromWords[c.rate_from ?? 'assumed']}`
/** A coil's next due is the earliest of its tasks. */
const earliest = (tasks: Schemas['TaskLine'][]) =>
  [...tasks].sort((a, b) => a.due.localeCompare(b.due)).slice(0, 1)
</script>

<template>
  <section class="screen">
    <LoadState
      :loading="page.loading.value && !page.data.value"
      :problem="page.problem.value"
      what="the portfolio"
      @retry="page.reload"
    />
    <template v-if="page.data.value">
      <div class="screen-head">
        <h1>{{ headline }}</h1>
      </div>
      <p v-if="summary.data.value && !summary.data.value.all_units" class="notice">
        There are no units yet.
        <template v-if="mayManage()">
          <RouterLink to="/portfolio/import">Import a file</RouterLink>,
          <RouterLink to="/sites/new">add a site</RouterLink> or
          <RouterLink to="/portfolio/new-unit">add a unit by hand</RouterLink>.</template
        >
      </p>
      <template v-else>
        <div class="filters">
          <ElInput
            class="find"
            :model-value="text"
            placeholder="Tag, class or place"
            aria-label="Find a unit"
            clearable
            @update:model-value="(v: string) => filter({ q: v || undefined })"
          />
          <ElSelect
            class="pick"
            :model-value="site || undefined"
            aria-label="Site"
            placeholder="All sites"
            clearable
            filterable
            @update:model-value="(v?: string) => filter({ site: v || undefined })"
          >
            <ElOption v-for="s in sites.data.value ?? []" :key="s.id" :value="s.id" :label="s.name" />
          </ElSelect>
          <ElSelect
            class="pick"
            :model-value="kind || undefined"
            aria-label="Class"
            placeholder="All classes"
            clearable
            filterable
            @update:model-value="(v?: string) => filter({ class: v || undefined })"
          >
            <ElOption
              v-for="c in catalogue.data.value?.classes ?? []"
              :key="c.id"
              :value="c.id"
              :label="c.name"
            />
          </ElSelect>
          <ElSelect
            class="narrow"
            :model-value="status || undefined"
            aria-label="Status"
            placeholder="Not retired"
            clearable
            @update:model-value="(v?: string) => filter({ status: v || undefined })"
          >
            <ElOption v-for="(w, k) in statusWords" :key="k" :value="k" :label="w" />
          </ElSelect>
          <ElSelect
            class="narrow"
            :model-value="sort"
            aria-label="Sorted by"
            @update:model-value="(v: string) => filter({ sort: v === 'site' ? undefined : v })"
          >
            <ElOption v-for="(w, k) in sortWords" :key="k" :value="k" :label="`By ${w.toLowerCase()}`" />
          </ElSelect>
          <ElCheckbox :model-value="due" @update:model-value="(v) => filter({ due: v ? '1' : undefined })"
            >Due or late</ElCheckbox
          >
          <ElCheckbox
            :model-value="proposed"
            @update:model-value="(v) => filter({ proposed: v ? '1' : undefined })"
            >Proposal open</ElCheckbox
          >
          <ElCheckbox
            :model-value="grade >= 3"
            @update:model-value="(v) => filter({ grade: v ? '3' : undefined })"
            >Felt or worse</ElCheckbox
          >
        </div>
        <div class="tools">
          <SavedFilters />
          <button type="button" class="link" @click="filter({ view: asMap ? undefined : 'map' })">
            {{ asMap ? 'Show the table' : 'Show a map of the sites' }}
          </button>
          <a :href="labels" target="_blank" rel="noopener">Labels as PDF</a>
          <template v-if="chosen.size">
            <strong>{{ count(chosen.size, 'unit') }} chosen</strong>
            <ElButton type="primary" size="small" @click="changing = true">Change in bulk</ElButton>
            <ElButton v-if="proposals.length" size="small" @click="accepting = true"
              >Accept {{ count(proposals.length, 'proposal') }}</ElButton
            >
          </template>
          <RouterLink to="/looks">Worth a look</RouterLink>
          <RouterLink v-if="mayManage()" to="/portfolio/bulk-changes">Bulk changes</RouterLink>
          <span class="grow"></span>
          <RouterLink v-if="mayManageHouse()" to="/portfolio/import">Import</RouterLink>
          <a href="/api/v1/exports/register" download>Export</a>
          <RouterLink v-if="mayManage()" to="/portfolio/new-unit">Add a unit</RouterLink>
          <RouterLink v-if="mayManageHouse()" to="/sites/new">Add a site</RouterLink>
          <RouterLink v-if="mayManage()" to="/portfolio/new-factor">Add a site factor</RouterLink>
        </div>
        <BulkChange v-if="changing" :units="[...chosen]" @close="changing = false" @changed="changed" />
        <AcceptProposals
          v-if="accepting"
          :proposals="proposals"
          @close="accepting = false"
          @changed="changed"
        />
        <SiteMap v-if="asMap" :sites="sites.data.value ?? []" />
        <p v-else-if="!rows.length && !page.loading.value" class="notice">
          No unit fits these filters.
          <button type="button" class="link" @click="router.replace({ query: {} })">Show all</button>
        </p>
        <div v-else class="scroll-x">
          <table class="lines dense">
            <thead>
              <tr>
                <th v-if="mayManage()" scope="col">
                  <ElCheckbox
                    :model-value="allChosen"
                    aria-label="Choose all shown"
                    @update:model-value="(v) => (chosen = new Set(v ? everyUnit : []))"
                  />
                </th>
                <th scope="col">Unit</th>
                <th scope="col">Class</th>
                <th scope="col">{{ sort === 'site' ? 'Placement' : 'Site, placement' }}</th>
                <th scope="col">Coil</th>
                <th scope="col">Soil expected</th>
                <th scope="col" class="number">Blocked</th>
                <th
                  scope="col"
                  class="number"
                  title="How fast the worst side soils: per cent of its free-flow area in the first 30 days after a clean"
                >
                  In 30 d
                </th>
                <th
                  scope="col"
                  class="number"
                  :title="`What a week beyond the day it is due costs, in ${session?.currency}`"
                >
                  Cost of waiting a week
                </th>
                <th scope="col">Last clean</th>
                <th scope="col">Next due</th>
                <th scope="col">Interval</th>
              </tr>
            </thead>
            <tbody v-for="g in groups" :key="g.name + g.rows[0]?.row.coil.coil_id">
              <tr v-if="g.name" class="site">
                <th scope="rowgroup" :colspan="columns">
                  <RouterLink v-if="g.id" :to="`/sites/${g.id}`">{{ g.name }}</RouterLink><template v-else>{{
                    g.name
                  }}</template>
                </th>
              </tr>
              <tr v-for="{ row: r, first } in g.rows" :key="r.coil.coil_id">
                <td v-if="mayManage()">
                  <ElCheckbox
                    v-if="first"
                    :model-value="chosen.has(r.unit_id)"
                    :aria-label="`Choose ${r.tag}`"
                    @update:model-value="(v) => choose(r.unit_id, Boolean(v))"
                  />
                </td>
                <td class="nowrap">
                  <RouterLink v-if="first" :to="`/units/${r.unit_id}`">{{ r.tag }}</RouterLink>
                  <span v-if="first && r.status !== 'in_service'" class="soft">
                    {{ statusWords[r.status as Schemas['UnitStatus']] }}</span
                  >
                </td>
                <td class="cut">{{ first ? r.class : '' }}</td>
                <td class="cut">
                  <template v-if="first">{{
                    sort === 'site' ? r.placement : `${r.site}, ${r.placement}`
                  }}</template>
                </td>
                <td class="nowrap">{{ roleWords[r.coil.role] }}</td>
                <td><CoilComb :state="r.coil.state" /></td>
                <td class="number">
                  <span
                    v-if="r.coil.state.known"
                    :title="r.coil.worst_side ? `worst side: ${r.coil.worst_side}` : ''"
                    >{{ percent(r.coil.state.blocked_share ?? 0) }}</span><span v-else class="soft">–</span>
                </td>
                <td class="number" :title="rateTitle(r.coil)">
                  <template v-if="r.coil.rate_per_30_days !== undefined"
                    ><span v-if="r.coil.rate_from !== 'own'" class="soft">{{
                      r.coil.rate_from === 'peers' ? 'peers ' : 'assumed '
                    }}</span
                    >{{ percent(1 - Math.exp(-r.coil.rate_per_30_days)) }}</template
                  ><span v-else class="soft">–</span>
                </td>
                <td class="number" :title="waitTitle(r.coil)">
                  <template v-if="waitOf(r.coil) !== undefined">{{
                    (waitOf(r.coil) ?? 0).toFixed(2)
                  }}</template><span v-else class="soft">–</span>
                </td>
                <td class="nowrap">
                  <template v-for="t in r.coil.tasks.slice(0, 1)" :key="t.task_id">
                    <template v-if="t.last_day"
                      >{{ t.about ? 'about ' : '' }}{{ shortDay(t.last_day) }}</template
                    >
                    <template v-else>{{ qualityWords[t.last_quality ?? 'unknown'] }}</template>
                  </template>
                </td>
                <td class="nowrap">
                  <template v-for="t in earliest(r.coil.tasks)" :key="t.task_id">
                    <span :class="{ over: t.days_late > 0 && !t.first_look }">{{ dueWords(t) }}</span>
                    <span v-if="t.on_round" class="soft"> on the round of {{ shortDay(t.on_round) }}</span>
                  </template>
                </td>
                <td class="nowrap">
                  <span v-for="(t, i) in r.coil.tasks" :key="t.task_id"
                    >{{ i ? ' · ' : '' }}{{ t.kind }} {{ t.every_days }} d<span
                      v-if="t.proposed_days"
                      class="proposed"
                    >
                      → {{ t.proposed_days }} d?</span
                    ></span
                  >
                </td>
              </tr>
            </tbody>
          </table>
          <ProblemNote :problem="moreFailed" />
          <p v-if="next">
            <ElButton :loading="more" @click="showMore">Show the next 100 coils</ElButton>
          </p>
          <SiltKey />
          <p class="soft">
            Soil is expected today on each coil's worst side, by what was found there, else by its peers, else
            at the rate its class and factors say. A week’s wait is what a week beyond the day it is due
            costs.
            {{
              filtered && summary.data.value ? `${count(summary.data.value.all_units, 'unit')} in all.` : ''
            }}
          </p>
        </div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: center;
  margin: 2px 0 0;
  min-height: 24px;
  font-size: 14px;
}
.grow {
  flex: 1;
}
.screen {
  padding-top: 12px;
}
.screen-head {
  margin-bottom: 6px;
}
h1 {
  font-size: 22px;
}
.filters :deep(.el-checkbox) {
  margin-right: 4px;
}
.find {
  width: 200px;
}
.pick {
  width: 150px;
}
.narrow {
  width: 124px;
}
.dense td {
  padding: 0 9px 0 0;
  vertical-align: middle;
  font-size: 13.5px;
  line-height: 23px;
}
.dense td a,
.dense th a {
  display: inline-block;
  min-width: 24px;
}
.dense thead th {
  padding: 0 9px 2px 0;
}
.tools a,
.tools .link {
  line-height: 24px;
}
.dense td:first-child,
.dense th:first-child {
  width: 26px;
}
.dense :deep(.el-checkbox) {
  height: 18px;
  display: flex;
  margin-right: 0;
}
.dense :deep(.comb) {
  display: flex;
}
.dense .site th {
  color: var(--ink);
  font-size: 15px;
  padding-top: 0;
  padding-bottom: 0;
  line-height: 23px;
}
.dense .site a {
  color: inherit;
  text-decoration-color: var(--hairline);
}
.cut {
  max-width: 128px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.proposed {
  color: var(--petrol);
  font-weight: 600;
}
</style>
