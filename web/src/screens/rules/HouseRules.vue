<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect, ElCheckbox } from 'element-plus'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, type Schemas } from '../../api/client'
import { copy } from '../../parts/copy'
import ConflictNote from '../../parts/ConflictNote.vue'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import NumberInput from '../../parts/NumberInput.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { forgetCatalogue, mayManageHouse, session } from '../../session'
import { evidenceWords } from '../../words'
import { useSubmit } from '../../parts/useSubmit'
import NewDefaults from './NewDefaults.vue'
import RulesNav from './RulesNav.vue'
import RecalculateAll from './RecalculateAll.vue'

const route = useRoute()
const router = useRouter()
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/house-rules')))
const table = computed(
  () => data.value?.tables.find((t) => t.key === route.query.table) ?? data.value?.tables[0],
)
const open = ref('')
type Values = Record<string, unknown>
const values = ref<Values>({})
const { busy, refused, submit } = useSubmit()

/** Columns shown in the list; long texts and months are for the form. */
const shown = computed(
  () =>
    table.value?.columns
      .filter((c) => c.key !== 'name' && c.kind !== 'text' && c.kind !== 'months')
      .slice(0, 8) ?? [],
)
const months = ['J', 'F', 'M', 'A', 'M', 'J', 'J', 'A', 'S', 'O', 'N', 'D']
const words = (v: unknown) => String(v).replaceAll('_', ' ')
function cell(c: Schemas['HouseColumn'], v: unknown): string {
  if (v === undefined || v === null) return '–'
  if (c.kind === 'flag') return v ? 'yes' : 'no'
  if (c.kind === 'months') return (v as number[]).map((x) => Number(x.toFixed(2))).join(' ')
  if (c.kind === 'choice') return words(v)
  if (c.unit === 'share') return `${Number((100 * (v as number)).toFixed(1))} %`
  if (c.unit === '×') return `×${String(v)}`
  const unit = c.unit === 'money' ? (session.value?.currency ?? '') : c.unit
  return typeof v === 'number' ? `${Number(v.toPrecision(6))}${unit ? ` ${unit}` : ''}` : String(v)
}
function edit(r: Schemas['HouseRow']) {
  refused.value = null
  open.value = open.value === r.id ? '' : r.id
  values.value = copy(r.values) as Values
}
function replaceRow(row: Schemas['HouseRow']) {
  const t = table.value
  if (!t) return
  t.rows = t.rows.map((r) => (r.id === row.id ? row : r))
  forgetCatalogue()
}
async function save(r: Schemas['HouseRow'], over?: number) {
  await submit(async () => {
    const clean = Object.fromEntries(Object.entries(values.value).map(([k, v]) => [k, v ?? null]))
    replaceRow(
      await ask(
        api.PUT('/house-rules/{table}/{row_id}', {
          params: { path: { table: table.value?.key ?? '', row_id: r.id } },
          body: { version: over ?? r.version, values: clean },
        }),
      ),
    )
    open.value = ''
  })
}
function takeTheirs() {
  replaceRow(refused.value?.current as unknown as Schemas['HouseRow'])
  open.value = ''
}
async function restore(r: Schemas['HouseRow']) {
  await submit(async () => {
    replaceRow(
      await ask(
        api.POST('/house-rules/{table}/{row_id}/default', {
          params: { path: { table: table.value?.key ?? '', row_id: r.id } },
        }),
      ),
    )
    open.value = ''
  })
}
const wrong = (key: string) => refused.value?.fields.filter((f) => f.pointer === `/values/${key}`) ?? []
const setMonth = (key: string, i: number, v: unknown) => {
  const list = [...((values.value[key] as unknown[] | null) ?? Array<number>(12).fill(1))]
  list[i] = v
  values.value = { ...values.value, [key]: list }
}
</script>

<template>
  <section class="screen">
    <div class="screen-head"><h1>House rules</h1></div>
    <RulesNav />
    <NewDefaults v-if="mayManageHouse()" @accepted="reload" />
    <LoadState :loading="loading && !data" :problem="problem" what="the house rules" @retry="reload" />
    <template v-if="data && table">
      <nav class="tables" aria-label="Tables">
        <button
          v-for="t in data.tables"
          :key="t.key"
          type="button"
          :class="{ here: t.key === table.key }"
          :aria-current="t.key === table.key ? 'true' : undefined"
          @click="router.replace({ query: { table: t.key } })"
        >
          {{ t.title }}
        </button>
      </nav>
      <p>{{ table.note }} Each figure says what it is based on; what you changed is <strong>bold</strong>.</p>
      <div class="scroll-x">
        <table class="lines">
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th v-for="c in shown" :key="c.key" scope="col" class="head">{{ c.label }}</th>
              <th scope="col">Evidence</th>
              <th scope="col"></th>
            </tr>
          </thead>
          <tbody v-for="r in table.rows" :key="r.id">
            <tr>
              <td>{{ r.name }}</td>
              <td v-for="c in shown" :key="c.key" :class="{ own: r.changed.includes(c.key) }">
                {{ cell(c, r.values[c.key]) }}
              </td>
              <td class="soft" :title="r.source">
                {{ r.changed.length ? 'your own figure' : evidenceWords[r.evidence]
                }}{{ r.from_memory ? ', from memory' : '' }}
              </td>
              <td class="nowrap">
                <ElButton
                  size="small"
                  :aria-expanded="open === r.id"
                  :aria-label="`${mayManageHouse() ? 'Change' : 'See'} ${r.name}`"
                  @click="edit(r)"
                  >{{ mayManageHouse() ? 'Change' : 'See' }}</ElButton
                >
              </td>
            </tr>
            <tr v-if="open === r.id">
              <td :colspan="shown.length + 3" class="form">
                <ConflictNote
                  :problem="refused"
                  :mine="values"
                  @theirs="takeTheirs"
                  @mine="save(r, Number(refused?.current?.version))"
                />
                <ProblemNote v-if="!refused?.current" :problem="refused" />
                <form novalidate @submit.prevent="save(r)">
                  <div class="fields">
                    <div
                      v-for="c in table.columns"
                      :key="c.key"
                      class="field"
                      :class="{ wide: c.kind === 'months' }"
                    >
                      <ElCheckbox
                        v-if="c.kind === 'flag'"
                        :model-value="Boolean(values[c.key])"
                        :disabled="!mayManageHouse()"
                        @update:model-value="(v) => (values = { ...values, [c.key]: Boolean(v) })"
                        >{{ c.label }}</ElCheckbox
                      >
                      <div v-else-if="c.kind === 'months'">
                        <span class="label">{{ c.label }}</span>
                        <div class="months">
                          <label v-for="(m, i) in months" :key="i"
                            ><span class="soft">{{ m }}</span
                            ><NumberInput
                              :model-value="((values[c.key] as unknown[] | null) ?? [])[i]"
                              :name="`${c.key} ${i + 1}`"
                              :disabled="!mayManageHouse()"
                              @update:model-value="(v: unknown) => setMonth(c.key, i, v)"
                          /></label>
                        </div>
                      </div>
                      <label v-else>
                        <span class="label">{{ c.label }}</span>
                        <ElSelect
                          v-if="c.kind === 'choice'"
                          :model-value="values[c.key] as string"
                          :aria-label="c.label"
                          :disabled="!mayManageHouse()"
                          @update:model-value="(v: string) => (values = { ...values, [c.key]: v })"
                        >
                          <ElOption v-for="o in c.choices" :key="o" :value="o" :label="words(o)" />
                        </ElSelect>
                        <ElInput
                          v-else-if="c.kind === 'text'"
                          :model-value="(values[c.key] ?? '') as string"
                          maxlength="600"
                          :name="c.key"
                          :disabled="!mayManageHouse()"
                          @update:model-value="(v: string) => (values = { ...values, [c.key]: v })"
                        />
                        <NumberInput
                          v-else
                          :model-value="values[c.key]"
                          :unit="c.unit === 'money' ? session?.currency : c.unit"
                          :name="c.key"
                          :disabled="!mayManageHouse()"
                          @update:model-value="(v: unknown) => (values = { ...values, [c.key]: v })"
                        />
                        <span v-if="r.changed.includes(c.key)" class="soft"
                          >default: {{ cell(c, r.defaults?.[c.key]) }}</span
                        >
                      </label>
                      <span v-for="f in wrong(c.key)" :key="f.reason" class="field-error" role="alert">{{
                        f.reason
                      }}</span>
                    </div>
                  </div>
                  <p class="soft">{{ r.source }}. Version {{ r.version }}.</p>
                  <div v-if="mayManageHouse()" class="actions">
                    <ElButton type="primary" native-type="submit" :loading="busy">Save {{ r.name }}</ElButton>
                    <ElButton v-if="r.restorable" @click="restore(r)">Restore the default</ElButton>
                  </div>
                </form>
                <details>
                  <summary>History</summary>
                  <HistoryList :id="r.id" entity="rule" />
                </details>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <RecalculateAll v-if="mayManageHouse()" />
    </template>
  </section>
</template>

<style scoped>
.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  margin-bottom: 10px;
}
.tables button {
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink-soft);
  padding: 4px 0;
  border-bottom: 3px solid transparent;
  cursor: pointer;
}
.tables .here {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--petrol);
}
.head {
  max-width: 120px;
}
.own {
  font-weight: 700;
}
.form {
  background: var(--sheet);
  padding: 12px 16px !important;
}
.wide {
  grid-column: 1 / -1;
}
.months {
  display: grid;
  grid-template-columns: repeat(12, minmax(56px, 1fr));
  gap: 6px;
}
@media (max-width: 900px) {
  .months {
    grid-template-columns: repeat(6, minmax(56px, 1fr));
  }
}
</style>
