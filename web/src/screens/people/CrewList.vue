<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { ref } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import NumberInput from '../../parts/NumberInput.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import WeekdayPicker from '../../parts/WeekdayPicker.vue'
import { forgetCatalogue, loadCatalogue, session } from '../../session'
import { count, duration, shortDay, weekdays } from '../../words'

/** Crews: the hours they work, the same on each of their days, who is away, and what they bring. */
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/crews')))
const sites = useLoad(() => ask(api.GET('/sites')))
interface Draft {
  id: string
  name: string
  starts: string
  minutes: unknown
  days: number[]
  kind: 'own' | 'contractor'
  base: string
  people: unknown
  skills: string
  kit: string
  tank: unknown
  overtime: unknown
  fee: unknown
  mail: string
  members: { person_id: string; from: string; to: string }[]
  version: number | undefined
}
const editing = ref<Draft | null>(null)
const away = ref<{ id: string; from: string; to: string; people: unknown; reason: string } | null>(null)
const address = ref<{ id: string; path: string } | null>(null)
const refused = ref<ApiProblem | null>(null)

function edit(c: Schemas['CrewRecord'] | null) {
  refused.value = null
  away.value = null
  const first = c?.card.hours[0]
  editing.value = {
    id: c?.id ?? '',
    name: c?.card.name ?? '',
    starts: first?.starts ?? '07:30',
    minutes: first?.minutes ?? 450,
    days: c ? c.card.hours.map((h) => h.weekday) : [1, 2, 3, 4, 5],
    kind: c?.card.kind ?? 'own',
    base: c?.card.base_site_id ?? '',
    people: c?.card.people ?? 1,
    skills: (c?.card.skills ?? []).join(', '),
    kit: (c?.card.kit ?? ['ladder']).join(', '),
    tank: c?.card.tank_l ?? 0,
    overtime: c?.card.overtime_minutes ?? 0,
    fee: c?.card.day_fee ?? 0,
    mail: c?.card.mail ?? '',
    members: (c?.card.members ?? []).map((m) => ({
      person_id: m.person_id,
      from: m.from ?? '',
      to: m.to ?? '',
    })),
    version: c?.card.version,
  }
}
const words = (text: string) =>
  text
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean)
async function act(what: () => Promise<unknown>) {
  refused.value = null
  try {
    await what()
    await reload()
  } catch (err) {
    refused.value = problemOf(err)
  }
}
const save = () =>
  act(async () => {
    const e = editing.value
    if (!e) return
    const body = {
      name: e.name,
      hours: e.days.map((weekday) => ({ weekday, starts: e.starts, minutes: e.minutes as number })),
      kind: e.kind,
      base_site_id: e.base || undefined,
      people: e.people as number,
      skills: words(e.skills),
      kit: words(e.kit),
      tank_l: e.tank as number,
      overtime_minutes: e.overtime as number,
      day_fee: e.fee as number,
      mail: e.mail,
      members: e.members
        .filter((m) => m.person_id)
        .map((m) => ({
          person_id: m.person_id,
          ...(m.from ? { from: m.from } : {}),
          ...(m.to ? { to: m.to } : {}),
        })),
      version: e.version,
    }
    await (e.id
      ? ask(api.PUT('/crews/{crew_id}', { params: { path: { crew_id: e.id } }, body }))
      : ask(api.POST('/crews', { body })))
    editing.value = null
    forgetCatalogue()
  })
function absent(c: Schemas['CrewRecord']) {
  refused.value = null
  editing.value = null
  const day = session.value?.today ?? ''
  away.value = { id: c.id, from: day, to: day, people: c.card.people ?? 1, reason: '' }
}
const saveAbsence = () =>
  act(async () => {
    const a = away.value
    if (!a) return
    await ask(
      api.POST('/crews/{crew_id}/absences', {
        params: { path: { crew_id: a.id } },
        body: { from: a.from, to: a.to, people: a.people as number, reason: a.reason },
      }),
    )
    away.value = null
  })
const endAbsence = (c: Schemas['CrewRecord'], id: string) =>
  act(() =>
    ask(
      api.DELETE('/crews/{crew_id}/absences/{absence_id}', {
        params: { path: { crew_id: c.id, absence_id: id } },
      }),
    ),
  )
const openFeed = (c: Schemas['CrewRecord']) =>
  act(async () => {
    const made = await ask(api.POST('/crews/{crew_id}/feed', { params: { path: { crew_id: c.id } } }))
    address.value = { id: c.id, path: window.location.origin + made.path }
  })
const closeFeed = (c: Schemas['CrewRecord']) =>
  act(async () => {
    await ask(api.DELETE('/crews/{crew_id}/feed', { params: { path: { crew_id: c.id } } }))
    address.value = null
  })
const people = useLoad(async () => (await loadCatalogue()).people)
/** Who is in it now or will be. */
const inIt = (c: Schemas['CrewCard']) =>
  (c.members ?? [])
    .filter((m) => !m.to || m.to >= (session.value?.today ?? ''))
    .map(
      (m) =>
        (people.data.value?.find((p) => p.id === m.person_id)?.name ?? 'somebody') +
        (m.from ? ` from ${shortDay(m.from)}` : '') +
        (m.to ? ` to ${shortDay(m.to)}` : ''),
    )
    .join(', ')
const baseOf = (c: Schemas['CrewCard']) => sites.data.value?.find((s) => s.id === c.base_site_id)?.name
const hours = (c: Schemas['CrewCard']) => {
  const first = c.hours[0]
  return first
    ? `${c.hours.map((h) => weekdays[h.weekday]).join(', ')} from ${first.starts}, ${duration(first.minutes)}`
    : 'no hours yet'
}
const brings = (c: Schemas['CrewCard']) =>
  [
    count(c.people ?? 1, 'person', 'people'),
    c.kind === 'contractor' ? 'contractor' : '',
    baseOf(c) ? `from ${baseOf(c)}` : '',
    ...(c.skills ?? []),
    ...(c.kit ?? []),
    c.tank_l ? `tank ${c.tank_l} L` : 'no tank',
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <fieldset class="part">
    <legend>Crews</legend>
    <LoadState :loading="loading && !data" :problem="problem" what="the crews" @retry="reload" />
    <p v-if="data && !data.length" class="soft">None yet: a round needs a crew with hours.</p>
    <ul class="plain">
      <li v-for="c in data ?? []" :key="c.id">
        <strong>{{ c.card.name }}</strong> {{ hours(c.card) }}
        <div class="soft">{{ brings(c.card) }}</div>
        <div v-if="inIt(c.card)">In it: {{ inIt(c.card) }}</div>
        <div v-else class="soft">Nobody is in it yet: no phone shows its day.</div>
        <div v-for="a in c.absences" :key="a.id">
          Away: {{ a.people }} of {{ c.card.people }}, {{ shortDay(a.from)
          }}<template v-if="a.to && a.to !== a.from"> to {{ shortDay(a.to) }}</template
          ><template v-if="a.reason">, {{ a.reason }}</template>
          <ElButton
            size="small"
            text
            :aria-label="`Delete the absence of ${c.card.name}`"
            @click="endAbsence(c, a.id)"
            >undo</ElButton
          >
        </div>
        <ElButton size="small" :aria-label="`Change ${c.card.name}`" @click="edit(c)">Change</ElButton>
        <ElButton size="small" :aria-label="`Absence of ${c.card.name}`" @click="absent(c)">Absence</ElButton>
        <ElButton
          size="small"
          :aria-label="`${c.has_feed ? 'New calendar address' : 'Calendar address'} of ${c.card.name}`"
          @click="openFeed(c)"
          >{{ c.has_feed ? 'New calendar address' : 'Calendar address' }}</ElButton
        >
        <ElButton
          v-if="c.has_feed"
          size="small"
          :aria-label="`Close the calendar of ${c.card.name}`"
          @click="closeFeed(c)"
          >Close the calendar</ElButton
        >
        <p v-if="address?.id === c.id" class="notice">
          Shown this once; whoever has it sees the crew's rounds: <code>{{ address.path }}</code>
        </p>
      </li>
    </ul>
    <ProblemNote v-if="!editing && !away" :problem="refused" />
    <form v-if="away" novalidate @submit.prevent="saveAbsence">
      <ProblemNote :problem="refused" />
      <div class="fields">
        <label class="field"
          ><span class="label">Away from</span><ElInput v-model="away.from" type="date"
        /></label>
        <label class="field"
          ><span class="label">Last day</span><ElInput v-model="away.to" type="date"
        /></label>
        <label class="field"><span class="label">How many</span><NumberInput v-model="away.people" /></label>
        <label class="field"
          ><span class="label">Reason</span><ElInput v-model="away.reason" maxlength="200"
        /></label>
      </div>
      <div class="actions">
        <ElButton type="primary" native-type="submit">Save the absence</ElButton>
        <ElButton @click="away = null">Cancel</ElButton>
      </div>
    </form>
    <form v-if="editing" novalidate @submit.prevent="save">
      <ProblemNote :problem="refused" />
      <div class="fields">
        <label class="field"
          ><span class="label">Crew</span><ElInput v-model="editing.name" maxlength="120"
        /></label>
        <label class="field"
          ><span class="label">Starts at</span><ElInput v-model="editing.starts" type="time"
        /></label>
        <label class="field"
          ><span class="label">Works</span><NumberInput v-model="editing.minutes" unit="min"
        /></label>
        <label class="field"
          ><span class="label">Overtime at most</span><NumberInput v-model="editing.overtime" unit="min"
        /></label>
        <label class="field"><span class="label">People</span><NumberInput v-model="editing.people" /></label>
        <label class="field"
          ><span class="label">Starts from</span>
          <ElSelect v-model="editing.base" aria-label="Starts from" placeholder="the site with most units">
            <ElOption value="" label="the site with most units" />
            <ElOption v-for="s in sites.data.value ?? []" :key="s.id" :value="s.id" :label="s.name" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Kind</span>
          <ElSelect v-model="editing.kind" aria-label="Kind of crew">
            <ElOption value="own" label="our own" /><ElOption value="contractor" label="contractor" />
          </ElSelect>
        </label>
        <label v-if="editing.kind === 'contractor'" class="field"
          ><span class="label">Fee a day</span><NumberInput v-model="editing.fee" :unit="session?.currency"
        /></label>
        <label class="field"
          ><span class="label">Tank</span><NumberInput v-model="editing.tank" unit="L"
        /></label>
        <label class="field"
          ><span class="label">Kit, with commas</span><ElInput v-model="editing.kit" maxlength="600"
        /></label>
        <label class="field"
          ><span class="label">Skills and permits</span><ElInput v-model="editing.skills" maxlength="600"
        /></label>
        <label class="field"
          ><span class="label">Mail</span><ElInput v-model="editing.mail" type="email" maxlength="254"
        /></label>
      </div>
      <fieldset class="part">
        <legend>Who is in it</legend>
        <div v-for="(m, i) in editing.members" :key="i" class="fields member">
          <label class="field"
            ><span class="label">Person</span>
            <select v-model="m.person_id" class="plain-input">
              <option value="">choose</option>
              <option v-for="p in people.data.value ?? []" :key="p.id" :value="p.id">{{ p.name }}</option>
            </select></label
          >
          <label class="field"
            ><span class="label">From (optional)</span
            ><input v-model="m.from" type="date" class="plain-input"
          /></label>
          <label class="field"
            ><span class="label">Last day (optional)</span
            ><input v-model="m.to" type="date" class="plain-input"
          /></label>
          <ElButton text :aria-label="`Take person ${i + 1} out`" @click="editing.members.splice(i, 1)"
            >take out</ElButton
          >
        </div>
        <ElButton @click="editing.members.push({ person_id: '', from: '', to: '' })"
          >Put somebody in</ElButton
        >
      </fieldset>
      <WeekdayPicker v-model="editing.days" label="On" />
      <div class="actions">
        <ElButton type="primary" native-type="submit" :disabled="!editing.name.trim()"
          >Save the crew</ElButton
        >
        <ElButton @click="editing = null">Cancel</ElButton>
      </div>
      <details v-if="editing.id">
        <summary>Who changed it, and locked its rounds</summary>
        <HistoryList :id="editing.id" :key="editing.id" entity="crew" />
      </details>
    </form>
    <ElButton v-else-if="!away" @click="edit(null)">Add a crew</ElButton>
  </fieldset>
</template>

<style scoped>
.plain {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.plain li {
  padding: 6px 0;
  border-bottom: 1px solid var(--hairline);
}
code {
  overflow-wrap: anywhere;
}
</style>
