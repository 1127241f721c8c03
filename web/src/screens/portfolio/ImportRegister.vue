<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, onUnmounted, ref } from 'vue'
import { useRoute } from 'vue-router'

import { api, type ApiProblem, asFile, ask, problemOf, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { loadCatalogue } from '../../session'
import { useLoad } from '../../parts/useLoad'
import { count } from '../../words'

type Kind = 'register' | 'visits' | 'call_outs'
const route = useRoute()
const kind = ref<Kind>(route.query.kind === 'call_outs' ? 'call_outs' : 'register')
/** The file as it was when it was chosen: it may be mended and chosen again under the same name. */
const file = ref<{ name: string; content: ArrayBuffer } | null>(null)
const run = ref<Schemas['ImportRun'] | null>(null)
const problem = ref<ApiProblem | null>(null)
const columns = ref<Record<string, string>>({})
const catalogue = useLoad(loadCatalogue)
let gone = false
onUnmounted(() => (gone = true))

const ours: Record<Kind, string[]> = {
  register: [
    'site',
    'placement',
    'tag',
    'class',
    'coil role',
    'last clean',
    'setting',
    'make',
    'model',
    'serial',
    'year',
    'commissioned',
    'refrigerant',
    'flammable',
    'charge kg',
    'capacity kW',
    'energy kWh a day',
    'consequence cost',
    'construction',
    'slabs',
    'light days',
    'deep days',
    'note',
  ],
  visits: [
    'tag',
    'day',
    'visit',
    'outcome',
    'coil role',
    'side',
    'reached',
    'why not',
    'found',
    'found by',
    'soils',
    'left',
    'left seen by',
    'work',
    'method',
    'direction',
    'cleaner',
    'water parts',
    'amount',
    'amount unit',
    'end points',
    'people',
    'note',
  ],
  call_outs: ['tag', 'day', 'cause', 'coil to blame', 'prevented', 'cost', 'goods', 'note'],
}
const report = computed(() => run.value?.report)
const running = computed(() => run.value?.status === 'running')
const stored = computed(() => run.value?.status === 'stored')
const checked = computed(() => run.value?.status === 'checked')
const share = computed(() => (run.value?.total ? Math.round((100 * run.value.done) / run.value.total) : 0))

const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))

async function send(dryRun: boolean) {
  const f = file.value
  if (!f) return
  problem.value = null
  const told = Object.fromEntries(Object.entries(columns.value).filter(([, v]) => v !== undefined))
  try {
    run.value = await ask(
      api.POST('/imports', {
        params: {
          query: {
            kind: kind.value,
            dry_run: dryRun,
            file_name: f.name,
            columns: Object.keys(told).length ? JSON.stringify(told) : undefined,
          },
        },
        body: f.content as unknown as string,
        ...asFile,
      }),
    )
    while (run.value.status === 'running' && !gone) {
      await pause(run.value.done ? 300 : 60)
      run.value = await ask(
        api.GET('/imports/{import_id}', { params: { path: { import_id: run.value.id } } }),
      )
    }
  } catch (e) {
    problem.value = problemOf(e)
  }
}
async function cancel() {
  if (!run.value) return
  try {
    await ask(api.DELETE('/imports/{import_id}', { params: { path: { import_id: run.value.id } } }))
  } catch (e) {
    problem.value = problemOf(e)
  }
}
async function choose(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  run.value = null
  columns.value = {}
  if (!chosen) return
  file.value = { name: chosen.name, content: await chosen.arrayBuffer() }
  input.value = ''
  await send(true)
}
function again() {
  run.value = null
  file.value = null
  columns.value = {}
}
/** What the import brings, counted. */
const taken = computed(() => {
  const r = report.value
  if (!r) return ''
  if (kind.value === 'visits') return count(r.new_visits, 'visit')
  if (kind.value === 'call_outs') return count(r.new_call_outs, 'call-out')
  return count(r.new_units + r.changed_units, 'unit')
})
const headline = computed(() => {
  const r = report.value
  if (stored.value && r)
    return kind.value === 'register'
      ? `Imported: ${count(r.new_units, 'unit')} with ${count(r.new_coils, 'coil')}${r.changed_units ? `; ${count(r.changed_units, 'unit')} changed` : ''}.`
      : `Imported: ${taken.value}.`
  return { register: 'Import units', visits: 'Import past visits', call_outs: 'Import call-outs' }[kind.value]
})
const brings = computed(() => {
  const r = report.value
  if (!r) return ''
  if (kind.value === 'register')
    return `${count(r.rows, 'row')}: ${count(r.new_units, 'new unit')} with ${count(r.new_coils, 'coil')}, ${count(r.new_placements, 'new placement')}${r.changed_units ? `; ${count(r.changed_units, 'unit')} changed` : ''}.`
  const known = kind.value === 'visits' ? r.known_visits : r.known_call_outs
  return `${count(r.rows, 'row')}: ${taken.value}${known ? `, ${known} known already` : ''}.`
})
const nothing = computed(() => {
  const r = report.value
  return (
    checked.value && r !== undefined && r.new_units + r.changed_units + r.new_visits + r.new_call_outs === 0
  )
})
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>{{ headline }}</h1>
      <div class="actions">
        <a class="button" :href="`/api/v1/import-template?kind=${kind}`" download>Template (CSV)</a>
        <a class="button" :href="`/api/v1/import-template?kind=${kind}&format=xlsx`" download
          >Template (XLSX)</a
        >
        <a class="button" :href="`/api/v1/exports/${kind}?format=xlsx`" download>Export (XLSX)</a>
        <RouterLink class="button" to="/portfolio">Portfolio</RouterLink>
      </div>
    </div>
    <p v-if="stored"><ElButton @click="again">Import another file</ElButton></p>
    <template v-else>
      <div class="kind">
        <label
          ><span class="label">What the file holds</span>
          <ElSelect v-model="kind" aria-label="What the file holds" :disabled="running" @change="again">
            <ElOption value="register" label="Units: one row per coil" />
            <ElOption value="visits" label="Past visits: one row per side" />
            <ElOption value="call_outs" label="Call-outs: one row each" />
          </ElSelect>
        </label>
        <label class="drop"
          ><span class="label">File: CSV (UTF-8, commas) or XLSX</span>
          <input
            type="file"
            accept=".csv,.xlsx,text/csv,application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
            name="file"
            :disabled="running"
            @change="choose"
          /><span v-if="file" class="chosen">{{ file.name }}</span></label
        >
      </div>
      <p class="soft">
        <template v-if="kind === 'register'"
          >One row per coil. Needed: <strong>site, placement, tag, class, coil role</strong>. Last clean: a
          date such as 2025-09-14, “about 2025-09”, never, or unknown. Units already in the register are
          compared; an empty cell changes nothing.</template
        >
        <template v-else-if="kind === 'call_outs'"
          >One row per call-out. Needed: <strong>tag, day, cause</strong>. Those of a unit, day and cause that
          are in the log already are left out; an answer that is left empty is not known.</template
        >
        <template v-else
          >One row per side of a coil, and once more for each further treatment. Needed:
          <strong>tag, day</strong>. Visits that are known already are left out.</template
        >
        Either all rows are imported or none.
      </p>
    </template>
    <ProblemNote :problem="problem" />
    <div v-if="running" class="progress" role="status">
      <div class="bar"><span :style="{ width: `${share}%` }"></span></div>
      <span>{{ run?.step || 'reading' }} {{ run?.total ? `${run.done} of ${run.total}` : '' }}</span>
      <ElButton size="small" @click="cancel">Cancel</ElButton>
    </div>
    <p v-if="run?.status === 'cancelled'" class="notice" role="status">Cancelled: nothing was stored.</p>
    <p v-if="run?.status === 'unchanged'" class="notice" role="status">
      The file holds nothing new. Nothing was changed.
    </p>
    <p v-if="run?.status === 'failed'" class="notice danger" role="alert">
      The import failed on the server; nothing was stored. Try again.
    </p>
    <template v-if="report && !stored && !running">
      <template v-if="report.problems.length">
        <h2>
          {{ count(report.problems.length + report.more_problems, 'problem') }}; nothing is taken in until
          they are gone.
        </h2>
        <table class="lines problems">
          <thead>
            <tr>
              <th scope="col" class="number">Line</th>
              <th scope="col">Column</th>
              <th scope="col">What is wrong</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(p, i) in report.problems" :key="i">
              <td class="number">{{ p.line }}</td>
              <td>{{ p.column || 'whole line' }}</td>
              <td>{{ p.reason }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="report.more_problems" class="soft">And {{ report.more_problems }} more.</p>
      </template>
      <template v-else-if="checked">
        <h2>{{ brings }}</h2>
        <p v-if="report.new_sites.length">
          New {{ report.new_sites.length === 1 ? 'site' : 'sites' }}:
          <strong
            >{{ report.new_sites.slice(0, 12).join(', ')
            }}{{ report.new_sites.length > 12 ? ' …' : '' }}</strong
          >. Check the spelling if you meant one that is there already.
        </p>
        <p v-if="nothing" class="notice">The file holds nothing new.</p>
        <ElButton v-else type="primary" @click="send(false)">Import {{ taken }}</ElButton>
      </template>
      <details v-if="report.columns.length" class="columns" :open="report.missing.length > 0">
        <summary>Columns of the file and what they stand for</summary>
        <table class="lines">
          <thead>
            <tr>
              <th scope="col">In the file</th>
              <th scope="col">Stands for</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(c, i) in report.columns" :key="i">
              <td>{{ c.name }}</td>
              <td>
                <ElSelect
                  :model-value="columns[c.name] ?? c.column ?? ''"
                  :aria-label="`${c.name} stands for`"
                  filterable
                  @update:model-value="(v: string) => (columns = { ...columns, [c.name]: v })"
                >
                  <ElOption value="" label="not used" />
                  <ElOption v-for="o in ours[kind]" :key="o" :value="o" :label="o" />
                </ElSelect>
              </td>
            </tr>
          </tbody>
        </table>
        <ElButton :disabled="!Object.keys(columns).length" @click="send(true)"
          >Check again with these names</ElButton
        >
        <span class="soft"> They are remembered for the next file.</span>
      </details>
    </template>
    <details
      v-if="!stored && kind === 'register'"
      class="classes"
      :open="report?.problems.some((p) => p.column === 'class')"
    >
      <summary>Classes and their coil roles</summary>
      <table class="lines">
        <tbody>
          <tr v-for="c in catalogue.data.value?.classes ?? []" :key="c.id">
            <td>{{ c.name }}</td>
            <td>{{ c.coil_roles.join(', ') }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
.kind {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 10px 28px;
  margin-bottom: 8px;
}
.drop input {
  width: 96px;
}
.chosen {
  margin-left: 10px;
}
.problems {
  max-width: 900px;
}
.problems .number {
  width: 60px;
}
.columns {
  margin-top: 18px;
  max-width: 700px;
}
.columns td {
  vertical-align: middle;
}
.classes {
  margin-top: 20px;
  max-width: 600px;
}
.progress {
  display: flex;
  gap: 14px;
  align-items: center;
  margin: 12px 0;
}
.bar {
  width: 300px;
  height: 10px;
  border: 1px solid var(--edge);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--petrol);
}
@media (max-width: 700px) {
  .kind {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
