<script setup lang="ts">
import { ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, type Schemas } from '../../api/client'
import CoilComb from '../../parts/CoilComb.vue'
import LoadState from '../../parts/LoadState.vue'
import SiltKey from '../../parts/SiltKey.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManage } from '../../session'
import { count, dueWords, percent, qualityWords, roleWords, shortDay } from '../../words'

const route = useRoute()
const router = useRouter()
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/portfolio')))

/** The filters live in the address, so that a filtered list can be shared. */
const text = computed(() => String(route.query.q ?? ''))
const site = computed(() => String(route.query.site ?? ''))
const due = computed(() => route.query.due === '1')
function filter(change: Record<string, string | undefined>) {
  void router.replace({ query: { ...route.query, ...change } })
}

interface Row {
  unit: Schemas['UnitLine']
  coil: Schemas['CoilLine']
  first: boolean
}
const matches = (s: Schemas['SiteLine'], u: Schemas['UnitLine']) =>
  [u.tag, u.class, u.placement, s.name].some((t) => t.toLowerCase().includes(text.value.trim().toLowerCase()))
const isDue = (c: Schemas['CoilLine']) => c.tasks.some((t) => t.days_late >= 0)

const sites = computed(() =>
  (data.value?.sites ?? [])
    .filter((s) => !site.value || s.id === site.value)
    .map((s) => {
      const rows: Row[] = s.units
        .filter((u) => matches(s, u))
        .flatMap((u) =>
          u.coils.filter((c) => !due.value || isDue(c)).map((coil, i) => ({ unit: u, coil, first: i === 0 })),
        )
      return { site: s, rows }
    })
    .filter((s) => s.rows.length > 0),
)
const all = computed(() => (data.value?.sites ?? []).flatMap((s) => s.units))
const dueNow = computed(() => all.value.flatMap((u) => u.coils).filter(isDue).length)
const shown = computed(() => sites.value.reduce((n, s) => n + s.rows.length, 0))
</script>

<template>
  <section class="screen">
    <LoadState :loading="loading && !data" :problem="problem" what="the portfolio" @retry="reload" />
    <template v-if="data">
      <div class="screen-head">
        <div>
          <h1 v-if="all.length">
            {{ count(all.length, 'unit') }} at {{ count(data.sites.length, 'site') }};
            {{ dueNow === 0 ? 'nothing is due today' : `${count(dueNow, 'coil')} due today or late` }}.
          </h1>
          <h1 v-else>No units yet.</h1>
        </div>
        <div v-if="mayManage()" class="actions">
          <RouterLink class="button" to="/portfolio/import">Import units</RouterLink>
          <RouterLink class="button" to="/portfolio/new-unit">Add a unit</RouterLink>
          <RouterLink class="button" to="/portfolio/new-factor">Add a site factor</RouterLink>
        </div>
      </div>
      <p v-if="!all.length" class="notice">
        The register is empty.
        <RouterLink v-if="mayManage()" to="/portfolio/import">Import a file</RouterLink>
        <template v-if="mayManage()">
          or <RouterLink to="/portfolio/new-unit">add a unit by hand</RouterLink>.</template
        >
      </p>
      <template v-else>
        <div class="filters">
          <ElInput
            class="find"
            :model-value="text"
            placeholder="Tag, class, placement or site"
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
            @update:model-value="(v?: string) => filter({ site: v || undefined })"
          >
            <ElOption v-for="s in data.sites" :key="s.id" :value="s.id" :label="s.name" />
          </ElSelect>
          <ElCheckbox :model-value="due" @update:model-value="(v) => filter({ due: v ? '1' : undefined })"
            >Due or late only</ElCheckbox
          >
        </div>
        <p v-if="!shown" class="notice">
          No unit fits these filters.
          <button type="button" class="link" @click="router.replace({ query: {} })">Show all</button>
        </p>
        <div v-else class="scroll-x">
          <table class="lines dense">
            <thead>
              <tr>
                <th scope="col">Unit</th>
                <th scope="col">Class</th>
                <th scope="col">Placement</th>
                <th scope="col">Coil</th>
                <th scope="col">Soil expected</th>
                <th scope="col" class="number">Blocked</th>
                <th scope="col">Last clean</th>
                <th scope="col">Interval</th>
                <th scope="col">Next due</th>
              </tr>
            </thead>
            <tbody v-for="s in sites" :key="s.site.id">
              <tr class="site">
                <th scope="rowgroup" colspan="9">{{ s.site.name }}</th>
              </tr>
              <tr v-for="r in s.rows" :key="r.coil.coil_id">
                <td class="nowrap">
                  <RouterLink v-if="r.first" :to="`/units/${r.unit.id}`">{{ r.unit.tag }}</RouterLink>
                </td>
                <td>{{ r.first ? r.unit.class : '' }}</td>
                <td>{{ r.first ? r.unit.placement : '' }}</td>
                <td class="nowrap">{{ roleWords[r.coil.role] }}</td>
                <td><CoilComb :state="r.coil.state" /></td>
                <td class="number">
                  <span
                    v-if="r.coil.state.known"
                    :title="r.coil.worst_side ? `worst side: ${r.coil.worst_side}` : ''"
                    >{{ percent(r.coil.state.blocked_share ?? 0) }}</span><span v-else class="soft">–</span>
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
                  <span v-for="(t, i) in r.coil.tasks" :key="t.task_id"
                    >{{ i ? ' · ' : '' }}{{ t.kind }} {{ t.every_days }} d<span
                      v-if="t.proposed_days"
                      class="proposed"
                    >
                      → {{ t.proposed_days }} d?</span
                    ></span
                  >
                </td>
                <td class="nowrap">
                  <template v-for="t in earliest(r.coil.tasks)" :key="t.task_id">
                    <span :class="{ over: t.days_late > 0 && !t.first_look }">{{ dueWords(t) }}</span>
                    <span v-if="t.on_round" class="soft"> on the round of {{ shortDay(t.on_round) }}</span>
                  </template>
                </td>
              </tr>
            </tbody>
          </table>
          <SiltKey />
          <p class="soft">
            Soil is expected today on each coil's worst side, at the class's assumed rate until findings say
            otherwise.
          </p>
        </div>
      </template>
    </template>
  </section>
</template>

<script lang="ts">
/** A coil's next due is the earliest of its tasks. */
const earliest = (tasks: Schemas['TaskLine'][]) =>
  [...tasks].sort((a, b) => a.due.localeCompare(b.due)).slice(0, 1)
</script>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin-bottom: 6px;
}
.find {
  width: 280px;
}
.pick {
  width: 220px;
}
.dense td {
  padding-top: 0;
  padding-bottom: 0;
  vertical-align: middle;
  font-size: 13.5px;
  line-height: 23px;
}
.dense .site th {
  color: var(--ink);
  font-size: 15px;
  padding-top: 4px;
  padding-bottom: 1px;
}
.proposed {
  color: var(--petrol);
  font-weight: 600;
}
.link {
  border: 0;
  background: none;
  color: var(--petrol);
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
</style>
