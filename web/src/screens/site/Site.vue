<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import { copy } from '../../parts/copy'
import ConflictNote from '../../parts/ConflictNote.vue'
import FieldGrid from '../../parts/FieldGrid.vue'
import type { Field } from '../../parts/fields'
import { options } from '../../parts/fields'
import FileList from '../../parts/FileList.vue'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import RecordList from '../../parts/RecordList.vue'
import { useLoad } from '../../parts/useLoad'
import WeekdayPicker from '../../parts/WeekdayPicker.vue'
import { mayManage, session } from '../../session'
import { climateWords, count, settingWords, shortDay, windowWords, yesNoWords } from '../../words'
import { useSubmit } from '../../parts/useSubmit'
import MonthFigures from './MonthFigures.vue'

const props = defineProps<{ id: string }>()
const router = useRouter()
const isNew = computed(() => props.id === 'new')
type Card = Record<string, unknown>

const { data, problem, loading, reload } = useLoad<Schemas['SiteRecord'] | null>(async () =>
  isNew.value ? null : ask(api.GET('/sites/{site_id}', { params: { path: { site_id: props.id } } })),
)
const empty = (): Card => ({
  name: '',
  zone: session.value?.zone ?? 'UTC',
  status: 'open',
  placements: [],
  windows: [],
  holidays: [],
})
const card = ref<Card>(empty())
const version = ref(0)
watch(data, (d) => {
  if (!d) return
  card.value = copy(d.card) as Card
  version.value = d.version
})
const { busy, refused, submit } = useSubmit()
const saved = ref(false)

const fields: Field[] = [
  { key: 'name', label: 'Name', kind: 'text', longest: 120 },
  { key: 'code', label: 'Short code', kind: 'text', longest: 40 },
  {
    key: 'zone',
    label: 'Time zone',
    kind: 'choice',
    options: Intl.supportedValuesOf('timeZone')
      .concat('UTC')
      .map((z) => ({ value: z, label: z })),
  },
  { key: 'status', label: 'Status', kind: 'choice', options: options({ open: 'open', closed: 'closed' }) },
  { key: 'address', label: 'Address', kind: 'text', longest: 300 },
  { key: 'contact', label: 'Contact on site', kind: 'text', longest: 200 },
  { key: 'phone', label: 'Telephone', kind: 'text', longest: 80 },
  { key: 'keys', label: 'Keys and access', kind: 'text', longest: 300 },
  { key: 'water', label: 'Running water', kind: 'choice', options: options(yesNoWords) },
  { key: 'water_note', label: 'Where the water is', kind: 'text', longest: 300 },
  { key: 'power', label: 'Power', kind: 'text', longest: 300 },
  { key: 'lat', label: 'Latitude', kind: 'number', unit: '°' },
  { key: 'lon', label: 'Longitude', kind: 'number', unit: '°' },
  { key: 'altitude_m', label: 'Altitude', kind: 'number', quantity: 'm' },
  { key: 'climate', label: 'Climate', kind: 'choice', options: options(climateWords) },
  {
    key: 'anchor_month',
    label: 'Deep cleans best in month',
    kind: 'integer',
    hint: '1 to 12, 0 for any; else by class and house',
  },
  { key: 'access_note', label: 'Notes for visitors', kind: 'long', longest: 2000 },
]
const placementFields: Field[] = [
  { key: 'name', label: 'Placement', kind: 'text', longest: 120 },
  { key: 'setting', label: 'Setting', kind: 'choice', options: options(settingWords) },
  { key: 'height_m', label: 'Height', kind: 'number', quantity: 'm' },
  { key: 'drain', label: 'Drain', kind: 'choice', options: options(yesNoWords) },
  { key: 'drain_note', label: 'About the drain', kind: 'text', longest: 200 },
  {
    key: 'water',
    label: 'Running water',
    kind: 'choice',
    options: options({ unknown: 'as the site', yes: 'yes', no: 'no: it is carried' }),
  },
  { key: 'near_food', label: 'near food', kind: 'flag' },
  { key: 'occupied', label: 'occupied', kind: 'flag' },
  { key: 'wall_backed', label: 'backed on a wall', kind: 'flag' },
]
const windowFields: Field[] = [
  { key: 'kind', label: 'Window', kind: 'choice', options: options(windowWords) },
  { key: 'starts', label: 'From', kind: 'time' },
  { key: 'ends', label: 'To', kind: 'time' },
  { key: 'from', label: 'First day (optional)', kind: 'day' },
  { key: 'to', label: 'Last day (optional)', kind: 'day' },
  { key: 'placement', label: 'Only for the placement', kind: 'text', longest: 120 },
  { key: 'note', label: 'Note', kind: 'text', longest: 200 },
]
const holidayFields: Field[] = [
  { key: 'day', label: 'Day', kind: 'day' },
  { key: 'name', label: 'Reason', kind: 'text', longest: 120 },
  {
    key: 'access',
    label: 'That day',
    kind: 'choice',
    options: options({ closed: 'nobody gets in', staff_away: 'staff away, crews get in' }),
  },
]
const months = computed(() => card.value.load_months as number[] | undefined)
const list = (key: string) => (card.value[key] ?? []) as Record<string, unknown>[]
const put = (key: string, v: Record<string, unknown>[]) => (card.value = { ...card.value, [key]: v })
const setDays = (i: number, days: number[]) =>
  put(
    'windows',
    list('windows').map((w, k) => (k === i ? { ...w, weekdays: days } : w)),
  )

/** A new site's errors have no /card in front. */
const problemOfForm = computed(() => refused.value)

async function save(over?: number) {
  saved.value = false
  await submit(async () => {
    const body = card.value as unknown as Schemas['SiteCard']
    if (isNew.value) {
      const made = await ask(api.POST('/sites', { body }))
      await router.replace(`/sites/${made.id}`)
      return
    }
    const record = await ask(
      api.PUT('/sites/{site_id}', {
        params: { path: { site_id: props.id } },
        body: { version: over ?? version.value, card: body },
      }),
    )
    data.value = record
    saved.value = true
    void history.value?.reload()
  })
}
function takeTheirs() {
  data.value = refused.value?.current as unknown as Schemas['SiteRecord']
  refused.value = null
}
const history = ref<InstanceType<typeof HistoryList>>()
const event = reactive({ kind: '', day: session.value?.today ?? '', note: '' })
const eventRefused = ref<ApiProblem | null>(null)
async function addEvent() {
  eventRefused.value = null
  try {
    await ask(
      api.POST('/sites/{site_id}/events', {
        params: { path: { site_id: props.id } },
        body: { kind: event.kind, day: event.day, note: event.note || undefined },
      }),
    )
    event.kind = event.note = ''
    await reload()
  } catch (e) {
    eventRefused.value = problemOf(e)
  }
}
const ending = reactive<{ id: string; to: string }>({ id: '', to: session.value?.today ?? '' })
async function endFactor(f: Schemas['FactorLine']) {
  eventRefused.value = null
  try {
    await ask(
      api.PUT('/site-factors/{factor_id}', {
        params: { path: { factor_id: f.id } },
        body: { to: ending.to, note: f.note },
      }),
    )
    ending.id = ''
    await reload()
  } catch (e) {
    eventRefused.value = problemOf(e)
  }
}
</script>

<template>
  <section class="screen middle">
    <LoadState :loading="loading && !data && !isNew" :problem="problem" what="the site" @retry="reload" />
    <template v-if="data || isNew">
      <div class="screen-head">
        <div>
          <p class="soft"><RouterLink to="/portfolio">Portfolio</RouterLink></p>
          <h1>{{ isNew ? 'Add a site' : `${data?.card.name}: ${count(data?.units ?? 0, 'unit')}` }}</h1>
        </div>
        <div v-if="!isNew" class="actions">
          <RouterLink class="button" :to="{ path: '/portfolio', query: { site: id } }">Its units</RouterLink>
          <RouterLink class="button" :to="{ path: '/call-outs', query: { site: id } }">Call-outs</RouterLink>
          <RouterLink
            v-if="mayManage()"
            class="button"
            :to="{ path: '/portfolio/new-unit', query: { site: data?.card.name } }"
            >Add a unit here</RouterLink
          >
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
        <fieldset class="part" :disabled="!mayManage()">
          <legend>Location and access</legend>
          <FieldGrid
            v-model="card"
            :fields="fields"
            :problem="problemOfForm"
            at="/card"
            :disabled="!mayManage()"
          />
          <MonthFigures
            v-if="mayManage()"
            :model-value="months"
            @update:model-value="(m) => (card = { ...card, load_months: m })"
          />
        </fieldset>
        <fieldset class="part">
          <legend>Placements</legend>
          <RecordList
            :model-value="list('placements')"
            :fields="placementFields"
            :problem="refused"
            at="/card/placements"
            what="placement"
            :fixed="!mayManage()"
            :fresh="
              () => ({
                name: '',
                setting: 'unstated',
                near_food: false,
                occupied: false,
                wall_backed: false,
                drain: 'unknown',
                drain_note: '',
                water: 'unknown',
              })
            "
            @update:model-value="(v) => put('placements', v)"
          />
        </fieldset>
        <fieldset class="part">
          <legend>Windows</legend>
          <p class="soft">
            When the site is open, quiet, closed to work, or may be worked in; local time. Rounds are planned
            by it: where work is allowed in some hours, only in these, less the time to hand the place back;
            else while it is open. Quiet hours keep noisy work out.
          </p>
          <WeekdayPicker
            v-for="(w, i) in list('windows')"
            :key="i"
            :model-value="(w.weekdays ?? []) as number[]"
            :label="`Days of window ${i + 1}`"
            @update:model-value="(d: number[]) => setDays(i, d)"
          />
          <RecordList
            :model-value="list('windows')"
            :fields="windowFields"
            :problem="refused"
            at="/card/windows"
            what="window"
            :fixed="!mayManage()"
            :fresh="
              () => ({ kind: 'open', weekdays: [1, 2, 3, 4, 5], starts: '08:00', ends: '16:00', note: '' })
            "
            @update:model-value="(v) => put('windows', v)"
          />
        </fieldset>
        <fieldset class="part">
          <legend>Holidays</legend>
          <RecordList
            :model-value="list('holidays')"
            :fields="holidayFields"
            :problem="refused"
            at="/card/holidays"
            what="holiday"
            :fixed="!mayManage()"
            :fresh="() => ({ day: session?.today, name: '', access: 'closed' })"
            @update:model-value="(v) => put('holidays', v)"
          />
        </fieldset>
        <div v-if="mayManage()" class="save">
          <ElButton type="primary" native-type="submit" :loading="busy">{{
            isNew ? 'Add the site' : 'Save the site'
          }}</ElButton>
        </div>
      </form>
      <template v-if="data">
        <fieldset class="part">
          <legend>Site factors</legend>
          <ProblemNote :problem="eventRefused" />
          <p v-if="!data.factors.length" class="soft">None: the class rates apply.</p>
          <ul class="plain">
            <li v-for="f in data.factors" :key="f.id">
              <strong>{{ f.name }} ×{{ f.multiplier }}</strong> {{ f.place ?? 'whole site' }}, from
              {{ f.from ? shortDay(f.from) : 'ever' }}{{ f.to ? ` until ${shortDay(f.to)}` : ''
              }}{{ f.note ? `; ${f.note}` : '' }}
              <template v-if="mayManage() && !f.to">
                <template v-if="ending.id === f.id">
                  <ElInput v-model="ending.to" type="date" class="end" aria-label="Ends on" />
                  <ElButton size="small" @click="endFactor(f)">End it</ElButton>
                </template>
                <button v-else type="button" class="link" @click="ending.id = f.id">ended?</button>
              </template>
            </li>
          </ul>
          <RouterLink v-if="mayManage()" to="/portfolio/new-factor">Add a site factor</RouterLink>
        </fieldset>
        <fieldset class="part">
          <legend>What happened here</legend>
          <ul class="plain">
            <li v-for="e in data.events" :key="e.id">
              {{ shortDay(e.day) }}: <strong>{{ e.kind }}</strong>{{ e.note ? `, ${e.note}` : '' }}
              <span class="soft">{{ e.by }}</span>
            </li>
          </ul>
          <form v-if="mayManage()" class="event" @submit.prevent="addEvent">
            <ElInput
              v-model="event.kind"
              placeholder="Mowing, building works, a duct moved …"
              aria-label="What happened"
              maxlength="80"
            />
            <ElInput v-model="event.day" type="date" aria-label="When" class="end" />
            <ElInput
              v-model="event.note"
              placeholder="Note"
              aria-label="Note on what happened"
              maxlength="500"
            />
            <ElButton native-type="submit" :disabled="!event.kind.trim()">Record event</ElButton>
          </form>
        </fieldset>
        <fieldset class="part">
          <legend>Files</legend>
          <FileList :id="id" entity="site" />
        </fieldset>
        <fieldset class="part">
          <legend>History</legend>
          <HistoryList :id="id" ref="history" entity="site" />
        </fieldset>
      </template>
    </template>
  </section>
</template>

<style scoped>
.middle {
  max-width: 1000px;
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
.plain {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.plain li {
  padding: 3px 0;
}
.end {
  width: 150px;
}
.event {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.event .el-input:not(.end) {
  width: 280px;
}
</style>
