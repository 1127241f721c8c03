<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, watch } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { copy } from '../../parts/copy'
import ConflictNote from '../../parts/ConflictNote.vue'
import FieldGrid from '../../parts/FieldGrid.vue'
import type { Field } from '../../parts/fields'
import { options } from '../../parts/fields'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import RecordList from '../../parts/RecordList.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManage, session } from '../../session'
import {
  companionWords,
  constructionWords,
  doerWords,
  isolationWords,
  qualityWords,
  roleWords,
  statusWords,
  surfaceWords,
  upperFirst,
  yesNoWords,
} from '../../words'
import UnitLife from './UnitLife.vue'
import { useSubmit } from '../../parts/useSubmit'

const props = defineProps<{ id: string }>()
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/units/{unit_id}/card', { params: { path: { unit_id: props.id } } })),
)
type Card = Record<string, unknown>
const card = ref<Card>({})
const version = ref(0)
watch(data, (d) => {
  if (!d) return
  card.value = copy(d.card) as unknown as Card
  version.value = d.version
})
const { busy, refused, submit } = useSubmit()
const saved = ref(false)
const history = ref<InstanceType<typeof HistoryList>>()

const money = session.value?.currency ?? ''
const nameplate: Field[] = [
  { key: 'tag', label: 'Tag', kind: 'text', longest: 60 },
  { key: 'make', label: 'Maker', kind: 'text', longest: 120 },
  { key: 'model', label: 'Model', kind: 'text', longest: 120 },
  { key: 'serial', label: 'Serial number', kind: 'text', longest: 120 },
  { key: 'year', label: 'Year built', kind: 'integer' },
  { key: 'commissioned', label: 'Commissioned', kind: 'day' },
  { key: 'refrigerant', label: 'Refrigerant', kind: 'text', longest: 20, hint: 'such as R-410A' },
  {
    key: 'flammable',
    label: 'Its refrigerant burns',
    kind: 'choice',
    options: options(yesNoWords),
    hint: 'not known counts as yes',
  },
  { key: 'charge_kg', label: 'Charge', kind: 'number', quantity: 'kg' },
  { key: 'capacity_kw', label: 'Cooling capacity', kind: 'number', quantity: 'kW' },
  { key: 'volts', label: 'Volts', kind: 'number', unit: 'V' },
  { key: 'amps', label: 'Amps', kind: 'number', unit: 'A' },
  { key: 'energy_kwh_day', label: 'Energy when clean', kind: 'number', unit: 'kWh/d' },
  { key: 'consequence_cost', label: 'What a failure costs', kind: 'number', unit: money },
  { key: 'replace_cost', label: 'A new one, put in', kind: 'number', unit: money, hint: 'else by its class' },
  { key: 'note', label: 'Note', kind: 'long', longest: 2000 },
]
const share = (key: string, label: string, hint: string): Field => ({
  key,
  label,
  kind: 'number',
  unit: '0–1',
  hint,
})
const runs: Field[] = [
  {
    key: 'compressor',
    label: 'Compressor',
    kind: 'choice',
    options: options({ fixed: 'one speed', variable: 'speed follows the load' }),
  },
  share(
    'full_load_share',
    'At full load, share of its hours',
    'only where the speed follows the load; else .3',
  ),
  share('running_share', 'Runs, share of the day', 'with a clean coil'),
  share(
    'hours_share',
    'Above the head-pressure ambient, share of hours',
    'below it the control holds the head pressure',
  ),
  {
    key: 'load',
    label: 'Works',
    kind: 'choice',
    options: options({
      even: 'all year round',
      cooling: 'when it is hot',
      heating: 'when it is cold',
      both: 'both',
    }),
    hint: 'else as its class',
  },
  {
    key: 'medium',
    label: 'In the indoor coil',
    kind: 'choice',
    options: options({ refrigerant: 'refrigerant', water: 'chilled or hot water' }),
  },
  {
    key: 'fan_drive',
    label: 'Indoor fan',
    kind: 'choice',
    options: options({ fixed: 'one speed: the flow falls', held_flow: 'holds its flow' }),
  },
  { key: 'fan_kwh_day', label: 'Indoor fan when clean', kind: 'number', unit: 'kWh/d' },
  share('filter_share', 'Filter holds back', 'of the soil in the air going through; else by its class'),
  share('bypass_share', 'Air past the filter', 'else by its class'),
]
const access: Field[] = [
  { key: 'isolation_kind', label: 'Isolated by', kind: 'choice', options: options(isolationWords) },
  { key: 'isolation_point', label: 'Isolation point', kind: 'text', longest: 200 },
  { key: 'panels', label: 'Panels to open', kind: 'text', longest: 300 },
  { key: 'fixings', label: 'Fixings to undo', kind: 'integer' },
  { key: 'fixings_note', label: 'About the fixings', kind: 'text', longest: 300 },
  { key: 'guards', label: 'Guards to take off', kind: 'integer' },
  { key: 'people', label: 'People needed', kind: 'integer' },
  { key: 'ladder_m', label: 'Ladder', kind: 'number', quantity: 'm' },
  { key: 'skill', label: 'Skill or permit it takes', kind: 'text', longest: 60 },
  { key: 'hazards', label: 'Hazards', kind: 'long', longest: 1000 },
]
const coil: Field[] = [
  { key: 'construction', label: 'Construction', kind: 'choice', options: options(constructionWords) },
  { key: 'slabs', label: 'Slabs', kind: 'integer' },
  { key: 'tube_rows', label: 'Rows of tubes', kind: 'integer' },
  { key: 'face_width_m', label: 'Face width', kind: 'number', quantity: 'm' },
  { key: 'face_height_m', label: 'Face height', kind: 'number', quantity: 'm' },
  {
    key: 'fin_metal',
    label: 'Fins',
    kind: 'choice',
    options: options({ unstated: 'not stated', aluminium: 'aluminium', copper: 'copper', steel: 'steel' }),
  },
  {
    key: 'tube_metal',
    label: 'Tubes',
    kind: 'choice',
    options: options({ unstated: 'not stated', copper: 'copper', aluminium: 'aluminium', steel: 'steel' }),
  },
  { key: 'coating', label: 'Coating', kind: 'text', longest: 120 },
  { key: 'installed', label: 'Installed', kind: 'day' },
]
const side: Field[] = [
  { key: 'name', label: 'Side', kind: 'text', longest: 60 },
  {
    key: 'kind',
    label: 'Kind',
    kind: 'choice',
    options: options({ side: 'side', slab_gap: 'gap between slabs' }),
  },
  { key: 'area_share', label: 'Share of face', kind: 'number' },
  { key: 'map_rows', label: 'Map rows', kind: 'integer' },
  { key: 'map_columns', label: 'Map columns', kind: 'integer' },
  { key: 'access_note', label: 'How it is reached', kind: 'text', longest: 300 },
  { key: 'reachable', label: 'can be reached', kind: 'flag' },
  { key: 'why_not', label: 'Why not', kind: 'text', longest: 300, when: (r) => r.reachable === false },
]
const surface: Field[] = [
  { key: 'kind', label: 'Surface', kind: 'choice', options: options(surfaceWords) },
  { key: 'name', label: 'Name', kind: 'text', longest: 60 },
  { key: 'note', label: 'Note', kind: 'text', longest: 300 },
]
const part: Field[] = [
  { key: 'kind', label: 'Part', kind: 'text', longest: 60 },
  { key: 'specification', label: 'Specification', kind: 'text', longest: 200 },
  { key: 'quantity', label: 'How many', kind: 'integer' },
  { key: 'note', label: 'Note', kind: 'text', longest: 300 },
]
const companion: Field[] = [
  { key: 'kind', label: 'Clock', kind: 'choice', options: options(companionWords) },
  { key: 'every_days', label: 'Every', kind: 'integer', unit: 'd' },
  { key: 'doer', label: 'By', kind: 'choice', options: options(doerWords) },
  {
    key: 'last_quality',
    label: 'Last done, before records here',
    kind: 'choice',
    options: options(qualityWords),
  },
  {
    key: 'last_day',
    label: 'On',
    kind: 'day',
    when: (r) => r.last_quality === 'exact' || r.last_quality === 'about',
  },
  { key: 'paused', label: 'paused', kind: 'flag' },
]
const list = (key: string) => (card.value[key] ?? []) as Card[]
const put = (key: string, v: unknown) => (card.value = { ...card.value, [key]: v })
const putCoil = (i: number, c: Card) =>
  put(
    'coils',
    list('coils').map((x, k) => (k === i ? c : x)),
  )
const roleOf = (c: Card) => upperFirst(roleWords[c.role as Schemas['CoilRole']])
const accessCard = computed(() => (card.value.access ?? {}) as Card)

async function save(over?: number) {
  saved.value = false
  await submit(async () => {
    data.value = await ask(
      api.PUT('/units/{unit_id}/card', {
        params: { path: { unit_id: props.id } },
        body: { version: over ?? version.value, card: card.value as unknown as Schemas['UnitCard'] },
      }),
    )
    saved.value = true
    void history.value?.reload()
  })
}
function takeTheirs() {
  data.value = refused.value?.current as unknown as Schemas['UnitRecord']
  refused.value = null
}
</script>

<template>
  <section class="screen middle">
    <LoadState :loading="loading && !data" :problem="problem" what="the unit's card" @retry="reload" />
    <template v-if="data">
      <div class="screen-head">
        <div>
          <p class="soft">
            <RouterLink :to="`/units/${id}`">{{ data.card.tag }}</RouterLink> · {{ data.class }} ·
            {{ data.site }}, {{ data.placement }}
          </p>
          <h1>{{ data.card.tag }}: unit details</h1>
        </div>
        <div class="actions">
          <span class="soft">{{ statusWords[data.status] }}</span>
          <a class="button" :href="`/api/v1/units/${id}/label`" target="_blank" rel="noopener">Label (PDF)</a>
        </div>
      </div>
      <ConflictNote
        :problem="refused"
        :mine="card"
        @theirs="takeTheirs"
        @mine="save(Number(refused?.current?.version))"
      />
      <ProblemNote v-if="!refused?.current" :problem="refused" />
      <p v-if="saved" class="notice" role="status">Saved.</p>
      <form novalidate @submit.prevent="save()">
        <fieldset class="part">
          <legend>Nameplate</legend>
          <FieldGrid
            v-model="card"
            :fields="nameplate"
            :problem="refused"
            at="/card"
            :disabled="!mayManage()"
          />
        </fieldset>
        <fieldset class="part">
          <legend>How it runs</legend>
          <FieldGrid v-model="card" :fields="runs" :problem="refused" at="/card" :disabled="!mayManage()" />
        </fieldset>
        <fieldset class="part">
          <legend>Access</legend>
          <FieldGrid
            :model-value="accessCard"
            :fields="access"
            :problem="refused"
            at="/card/access"
            :disabled="!mayManage()"
            @update:model-value="(v) => put('access', v)"
          />
        </fieldset>
        <fieldset v-for="(c, i) in list('coils')" :key="String(c.id)" class="part">
          <legend>{{ roleOf(c) }}</legend>
          <FieldGrid
            :model-value="c"
            :fields="coil"
            :problem="refused"
            :at="`/card/coils/${i}`"
            dense
            :disabled="!mayManage()"
            @update:model-value="(v) => putCoil(i, v)"
          />
          <h3>Sides</h3>
          <RecordList
            :model-value="(c.sides ?? []) as Card[]"
            :fields="side"
            :problem="refused"
            :at="`/card/coils/${i}/sides`"
            what="side"
            :fixed="!mayManage()"
            :fresh="
              () => ({
                name: '',
                kind: 'side',
                area_share: 0.1,
                reachable: true,
                why_not: '',
                access_note: '',
              })
            "
            @update:model-value="(v) => putCoil(i, { ...c, sides: v })"
          />
        </fieldset>
        <fieldset class="part">
          <legend>Other surfaces</legend>
          <RecordList
            :model-value="list('surfaces')"
            :fields="surface"
            :problem="refused"
            at="/card/surfaces"
            what="surface"
            :fixed="!mayManage()"
            :fresh="() => ({ kind: 'grille', name: '', note: '' })"
            @update:model-value="(v) => put('surfaces', v)"
          />
        </fieldset>
        <fieldset class="part">
          <legend>Companion tasks</legend>
          <RecordList
            :model-value="list('companions')"
            :fields="companion"
            :problem="refused"
            at="/card/companions"
            what="clock"
            :fixed="!mayManage()"
            :fresh="
              () => ({
                kind: 'filter',
                every_days: 30,
                doer: 'technician',
                paused: false,
                last_quality: 'unknown',
              })
            "
            @update:model-value="(v) => put('companions', v)"
          />
        </fieldset>
        <fieldset class="part">
          <legend>Parts</legend>
          <RecordList
            :model-value="list('parts')"
            :fields="part"
            :problem="refused"
            at="/card/parts"
            what="part"
            :fixed="!mayManage()"
            :fresh="() => ({ kind: '', specification: '', quantity: 1, note: '' })"
            @update:model-value="(v) => put('parts', v)"
          />
        </fieldset>
        <div v-if="mayManage()" class="save">
          <ElButton type="primary" native-type="submit" :loading="busy">Save the card</ElButton>
        </div>
      </form>
      <UnitLife :record="data" @changed="(r) => (data = r)" />
      <fieldset class="part">
        <legend>History</legend>
        <HistoryList :id="id" ref="history" entity="unit" />
      </fieldset>
    </template>
  </section>
</template>

<style scoped>
.middle {
  max-width: 1060px;
}
h3 {
  margin: 10px 0 4px;
}
.save {
  position: sticky;
  bottom: 0;
  background: var(--paper);
  padding: 10px 0;
  border-top: 1px solid var(--hairline);
  margin-top: 12px;
  z-index: 2;
}
</style>
