<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import SureButton from '../../parts/SureButton.vue'
import UnitField from '../../parts/UnitField.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManage, mayManageHouse, mayRecord, session } from '../../session'
import { callOutCauseWords, count, percent, shortDay, upperFirst, yesNoWords } from '../../words'
import CompleteLogs from './CompleteLogs.vue'

/** Call-outs as they were put down, when the log is complete, and what follows from it for each class. */
const route = useRoute()
const site = computed(() => (route.query.site as string | undefined) || undefined)
const unit = computed(() => (route.query.unit as string | undefined) || undefined)
const { data, problem, loading, reload } = useLoad(() =>
  ask(
    api.GET('/call-outs', {
      params: {
        query: {
          ...(site.value ? { site_id: site.value } : {}),
          ...(unit.value ? { unit_id: unit.value } : {}),
        },
      },
    }),
  ),
)
watch([site, unit], () => void reload())
const { busy, refused, submit } = useSubmit()

const money = (v?: number) => (v === undefined ? '–' : v.toFixed(0))
const times = (v: number) => `× ${v.toFixed(2)}`
const empty = () => ({
  unit: unit.value ?? '',
  day: session.value?.today ?? '',
  cause: 'other' as Schemas['CallOutCause'],
  coil_to_blame: 'unknown' as Schemas['YesNo'],
  prevented: 'unknown' as Schemas['YesNo'],
  cost: '',
  goods: '',
  visit: '',
  note: '',
})
const form = reactive(empty())
const changing = ref('')
/** Tag of the unit that is being corrected, or of the one this screen was opened for. */
const tag = ref('')
const visits = ref<Schemas['VisitSummary'][]>([])
watch(
  () => form.unit,
  async (id) => {
    visits.value = id
      ? await ask(api.GET('/units/{unit_id}', { params: { path: { unit_id: id } } })).then((u) => {
          tag.value = u.tag
          return u.visits
        })
      : []
  },
  { immediate: true },
)
/** A visit on the day of the call-out or after it may have answered it. */
const answers = computed(() => visits.value.filter((v) => v.day >= form.day).slice(-12))
const title = computed(() => {
  const d = data.value
  if (!d) return 'Call-outs'
  const sites = new Set(d.logs.map((l) => l.site_id)).size
  return `${upperFirst(count(d.call_outs.length, 'call-out'))} in the log, complete at ${count(sites, 'site')}`
})
const body = (): Schemas['NewCallOut'] => ({
  unit_id: form.unit,
  day: form.day,
  cause: form.cause,
  coil_to_blame: form.coil_to_blame,
  prevented: form.prevented,
  ...(form.cost !== '' ? { cost: Number(form.cost) } : {}),
  ...(form.goods !== '' ? { goods: Number(form.goods) } : {}),
  ...(form.visit ? { visit_id: form.visit } : {}),
  ...(form.note ? { note: form.note } : {}),
})
async function save() {
  await submit(async () => {
    if (changing.value)
      await ask(
        api.PUT('/call-outs/{call_out_id}', {
          params: { path: { call_out_id: changing.value } },
          body: body(),
        }),
      )
    else await ask(api.POST('/call-outs', { body: body() }))
    changing.value = ''
    Object.assign(form, empty())
    await reload()
  })
}
function change(c: Schemas['CallOut']) {
  changing.value = c.id
  refused.value = null
  Object.assign(form, {
    unit: c.unit_id,
    day: c.day,
    cause: c.cause,
    coil_to_blame: c.coil_to_blame,
    prevented: c.prevented,
    cost: c.cost === undefined ? '' : String(c.cost),
    goods: c.goods === undefined ? '' : String(c.goods),
    visit: c.visit_id ?? '',
    note: c.note,
  })
  document.getElementById('call-out-form')?.scrollIntoView()
}
async function remove(c: Schemas['CallOut']) {
  await submit(async () => {
    await ask(api.DELETE('/call-outs/{call_out_id}', { params: { path: { call_out_id: c.id } } }))
    await reload()
  })
}
const choices = [
  { key: 'coil_to_blame', label: 'Was a soiled coil to blame?' },
  { key: 'prevented', label: 'Would a clean in time have prevented it?' },
] as const
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>{{ title }}</h1>
      <div class="actions">
        <RouterLink v-if="site || unit" class="button" to="/call-outs">All call-outs</RouterLink>
        <RouterLink v-if="mayManageHouse()" class="button" to="/portfolio/import?kind=call_outs"
          >Import</RouterLink
        >
        <a class="button" href="/api/v1/exports/call_outs?format=csv" download>Export (CSV)</a>
      </div>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the call-outs" @retry="reload" />
    <ProblemNote :problem="refused" />
    <template v-if="data">
      <section aria-label="What the records say of each class">
        <h2>What follows for the money</h2>
        <p v-if="!data.classes.length" class="soft">
          Nothing yet: how often soil causes a call-out is assumed. Declare below for which time the log of a
          site is complete; with the next night’s recalculation the classes take it up.
        </p>
        <div v-else class="scroll">
          <table class="lines">
            <thead>
              <tr>
                <th scope="col">Class</th>
                <th scope="col" class="number">Unit-years logged</th>
                <th scope="col" class="number">Laid to the coil</th>
                <th scope="col" class="number">Expected</th>
                <th scope="col" class="number">Call-outs taken</th>
                <th scope="col" class="number">Still assumed</th>
                <th scope="col" class="number">Temperature rise taken</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="c in data.classes" :key="c.class">
                <td>{{ c.class }}</td>
                <td class="number">{{ c.unit_years.toFixed(1) }}</td>
                <td class="number">{{ c.seen }}</td>
                <td class="number">{{ c.expected.toFixed(1) }}</td>
                <td class="number nowrap">
                  <strong>{{ times(c.times) }}</strong><span class="soft range"
                    >{{ c.low.toFixed(2) }}–{{ c.high.toFixed(2) }}</span
                  >
                </td>
                <td class="number">{{ percent(c.assumed_share) }}</td>
                <td class="number nowrap">
                  <template v-if="c.rise_times !== undefined"
                    >{{ times(c.rise_times) }}
                    <span class="soft">{{ count(c.rise_pairs, 'pair') }}</span></template
                  ><span v-else class="soft">assumed</span>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="data.computed_at" class="soft">
          As of {{ shortDay(data.computed_at.slice(0, 10)) }}; what is put down since is taken up with the
          next night’s recalculation. Ranges are from 10 to 90 %.
        </p>
      </section>
      <section aria-label="The log">
        <h2>The log</h2>
        <p v-if="!data.call_outs.length" class="soft">Nothing was put down yet.</p>
        <div v-else class="scroll">
          <table class="lines">
            <thead>
              <tr>
                <th scope="col">Day</th>
                <th scope="col">Unit</th>
                <th scope="col">Site</th>
                <th scope="col">Put down to</th>
                <th scope="col">Coil to blame</th>
                <th scope="col">A clean would have prevented it</th>
                <th scope="col" class="number">Cost, {{ session?.currency }}</th>
                <th scope="col" class="number">Goods, {{ session?.currency }}</th>
                <th scope="col">Answered by</th>
                <th scope="col"></th>
              </tr>
            </thead>
            <tbody>
              <template v-for="c in data.call_outs" :key="c.id">
                <tr>
                  <td class="nowrap">{{ shortDay(c.day) }}</td>
                  <td class="nowrap">
                    <RouterLink :to="`/units/${c.unit_id}`">{{ c.tag }}</RouterLink>
                  </td>
                  <td>{{ c.site }}</td>
                  <td>
                    {{ callOutCauseWords[c.cause] }}<span v-if="c.note" class="soft"><br />{{ c.note }}</span>
                  </td>
                  <td>
                    {{ yesNoWords[c.coil_to_blame]
                    }}<span v-if="c.coil_to_blame === 'yes' && !c.counted" class="soft"
                      ><br />not counted: the log of that day is not complete</span
                    >
                  </td>
                  <td>{{ yesNoWords[c.prevented] }}</td>
                  <td class="number">{{ money(c.cost) }}</td>
                  <td class="number">{{ money(c.goods) }}</td>
                  <td class="nowrap">
                    <RouterLink v-if="c.visit_id && c.visit_day" :to="`/visits/${c.visit_id}`"
                      >visit of {{ shortDay(c.visit_day) }}</RouterLink
                    ><span v-else class="soft">–</span>
                  </td>
                  <td class="nowrap">
                    <template v-if="mayManage()">
                      <button type="button" class="link" @click="change(c)">Correct</button>
                      <SureButton label="Remove" look="link" ask="Erase it from the log?" @sure="remove(c)" />
                    </template>
                  </td>
                </tr>
              </template>
            </tbody>
          </table>
        </div>
      </section>
      <form v-if="mayRecord()" id="call-out-form" novalidate @submit.prevent="save">
        <h2>{{ changing ? 'Correct a call-out' : 'Put a call-out down' }}</h2>
        <div class="fields">
          <div class="field">
            <UnitField v-model="form.unit" label="Unit (tag)" name="call-out-unit" :tag="tag" />
            <FieldNote :problem="refused" at="/unit_id" />
          </div>
          <label class="field"
            ><span class="label">Day</span
            ><input
              v-model="form.day"
              type="date"
              class="plain-input"
              name="call-out-day"
              :max="session?.today"
            /><FieldNote :problem="refused" at="/day" />
          </label>
          <label class="field"
            ><span class="label">Put down to</span>
            <select v-model="form.cause" class="plain-input" name="call-out-cause">
              <option v-for="(w, k) in callOutCauseWords" :key="k" :value="k">{{ w }}</option>
            </select>
          </label>
          <label v-for="x in choices" :key="x.key" class="field"
            ><span class="label">{{ x.label }}</span>
            <select v-model="form[x.key]" class="plain-input" :name="`call-out-${x.key}`">
              <option v-for="(w, k) in yesNoWords" :key="k" :value="k">{{ w }}</option>
            </select>
            <FieldNote :problem="refused" :at="`/${x.key}`" />
          </label>
          <label class="field"
            ><span class="label">Cost, {{ session?.currency }}</span
            ><input
              v-model="form.cost"
              type="number"
              min="0"
              step="any"
              class="plain-input"
              name="call-out-cost"
            /><FieldNote :problem="refused" at="/cost" />
          </label>
          <label class="field"
            ><span class="label">Goods lost, {{ session?.currency }}</span
            ><input
              v-model="form.goods"
              type="number"
              min="0"
              step="any"
              class="plain-input"
              name="call-out-goods"
            /><FieldNote :problem="refused" at="/goods" />
          </label>
          <label class="field"
            ><span class="label">Answered by the visit of</span>
            <select v-model="form.visit" class="plain-input" name="call-out-visit">
              <option value="">none recorded</option>
              <option v-for="v in answers" :key="v.id" :value="v.id">{{ shortDay(v.day) }}</option>
            </select>
            <FieldNote :problem="refused" at="/visit_id" />
          </label>
          <label class="field"
            ><span class="label">Note</span
            ><input v-model="form.note" class="plain-input" maxlength="500" name="call-out-note"
          /></label>
        </div>
        <p class="soft">
          A clean that answered it is recorded as a visit, which sets the clocks back; name that visit here.
        </p>
        <div class="actions">
          <button type="submit" class="plain-button primary" :disabled="busy || !form.unit">
            {{ changing ? 'Correct it' : 'Put it down' }}
          </button>
          <button v-if="changing" type="button" class="plain-button" @click="changing = ''">Cancel</button>
        </div>
      </form>
      <CompleteLogs :logs="data.logs" @changed="reload" />
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 22px 0 8px;
}
.range {
  margin-left: 8px;
}
.scroll {
  overflow-x: auto;
}
td {
  vertical-align: top;
}
.link {
  min-height: 36px;
  margin-right: 8px;
}
</style>
