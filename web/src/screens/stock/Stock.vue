<script setup lang="ts">
import { reactive, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManageHouse, mayRecord, session } from '../../session'
import { figure } from '../../units'
import { shortDay } from '../../words'
import RulesNav from '../rules/RulesNav.vue'

/** The stock book, and cleaner used against planned. */
const { data, problem, loading, reload } = useLoad(async () => {
  const [book, doses] = await Promise.all([ask(api.GET('/stock')), ask(api.GET('/doses'))])
  return { book, doses }
})
const kinds = {
  bought: 'Bought',
  opened: 'Opened',
  drawn: 'Drawn',
  returned: 'Returned',
  counted: 'Counted: there are',
} as const
const move = reactive({
  cleaner: '',
  kind: 'bought' as keyof typeof kinds,
  litres: null as number | null,
  day: session.value?.today ?? '',
  note: '',
})
const order = reactive({ open: '', at: null as number | null, days: null as number | null })
const { busy, refused, submit } = useSubmit()
const by = ref<'by_crew' | 'by_cleaner' | 'by_unit'>('by_crew')
const groups = { by_crew: 'Who', by_cleaner: 'Cleaner', by_unit: 'Unit' }
const rows = () =>
  [...(data.value?.doses[by.value] ?? [])].sort((a, b) => b.money - a.money || b.ratio - a.ratio)

async function add() {
  await submit(async () => {
    data.value!.book = await ask(
      api.POST('/stock/moves', {
        body: {
          cleaner_id: move.cleaner,
          kind: move.kind,
          litres: move.litres ?? 0,
          day: move.day,
          ...(move.note ? { note: move.note } : {}),
        },
      }),
    )
    move.litres = null
    move.note = ''
  })
}
function edit(l: Schemas['StockLine']) {
  order.open = l.cleaner_id
  order.at = l.reorder_at_l
  order.days = l.lead_days
}
async function save(l: Schemas['StockLine']) {
  await submit(async () => {
    data.value!.book = await ask(
      api.PUT('/stock/{cleaner_id}', {
        params: { path: { cleaner_id: l.cleaner_id } },
        body: { reorder_at_l: order.at ?? 0, lead_days: order.days ?? 0, version: l.version },
      }),
    )
    order.open = ''
  })
}
const late = (l: Schemas['StockLine']) => !!l.reorder_on && l.reorder_on <= (session.value?.today ?? '')
</script>

<template>
  <section class="screen">
    <div class="screen-head"><h1>Stock and doses</h1></div>
    <RulesNav />
    <LoadState :loading="loading && !data" :problem="problem" what="the stock book" @retry="reload" />
    <template v-if="data">
      <ProblemNote :problem="refused" />
      <div class="scroll-x">
        <table class="lines">
          <thead>
            <tr>
              <th>Cleaner</th>
              <th class="number">There</th>
              <th class="number">Used in 90 d</th>
              <th class="number">Opened</th>
              <th class="number">Order at</th>
              <th>Order on</th>
              <th></th>
            </tr>
          </thead>
          <tbody>
            <template v-for="l in data.book.lines" :key="l.cleaner_id">
              <tr>
                <td>{{ l.cleaner }}</td>
                <td class="number" :class="{ over: l.on_hand_l < 0 }">
                  {{ figure('L', l.on_hand_l) }}
                  <div v-if="l.on_hand_l < 0" class="soft">more was used than bought: count it</div>
                </td>
                <td class="number">{{ figure('L', l.drawn_90_l) }}</td>
                <td class="number">{{ l.opened }}</td>
                <td class="number">{{ figure('L', l.reorder_at_l) }}, {{ l.lead_days }} d ahead</td>
                <td :class="{ over: late(l) }">
                  {{ l.reorder_on ? (late(l) ? 'now' : shortDay(l.reorder_on)) : '–' }}
                </td>
                <td>
                  <button v-if="mayManageHouse()" type="button" class="link" @click="edit(l)">Change</button>
                </td>
              </tr>
              <tr v-if="order.open === l.cleaner_id">
                <td colspan="7">
                  <div class="fields">
                    <FigureField v-model="order.at" label="Order when there are" quantity="L" />
                    <FigureField v-model="order.days" label="Delivery takes" unit="d" />
                    <button type="button" class="plain-button" :disabled="busy" @click="save(l)">Save</button>
                  </div>
                  <h3>Booked by hand</h3>
                  <HistoryList :id="l.cleaner_id" entity="cleaner" />
                </td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>
      <form v-if="mayRecord()" class="fields" novalidate @submit.prevent="add">
        <label class="field"
          ><span class="label">Cleaner</span>
          <select v-model="move.cleaner" class="plain-input">
            <option v-for="l in data.book.lines" :key="l.cleaner_id" :value="l.cleaner_id">
              {{ l.cleaner }}
            </option>
          </select>
        </label>
        <label class="field"
          ><span class="label">What</span>
          <select v-model="move.kind" class="plain-input">
            <option v-for="(w, k) in kinds" :key="k" :value="k">{{ w }}</option>
          </select>
        </label>
        <FigureField v-model="move.litres" label="How much" quantity="L" />
        <label class="field"
          ><span class="label">Day</span><input v-model="move.day" type="date" class="plain-input"
        /></label>
        <label class="field"
          ><span class="label">Note</span><input v-model="move.note" class="plain-input" maxlength="300"
        /></label>
        <div class="field">
          <span class="label">&nbsp;</span
          ><button type="submit" class="plain-button" :disabled="busy || !move.cleaner">
            Record movement
          </button>
        </div>
      </form>

      <h2>Used against planned</h2>
      <p>
        {{ data.doses.recorded }} doses recorded. Where no plan was kept, it is worked out from the coil, its
        soil and the mix.
      </p>
      <div class="actions">
        <button
          v-for="(w, k) in groups"
          :key="k"
          type="button"
          class="plain-button"
          :class="{ primary: by === k }"
          :aria-pressed="by === k"
          @click="by = k"
        >
          {{ w }}
        </button>
      </div>
      <table class="lines">
        <thead>
          <tr>
            <th>{{ groups[by] }}</th>
            <th class="number">Doses</th>
            <th class="number">Planned</th>
            <th class="number">Used</th>
            <th class="number">Used / planned</th>
            <th v-if="by === 'by_unit'" class="number">A dose, by capacity</th>
            <th class="number">Beyond the plan</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in rows()" :key="d.group">
            <td>{{ d.group }}</td>
            <td class="number">{{ d.times }}</td>
            <td class="number">{{ figure('L', d.planned_l) }}</td>
            <td class="number">{{ figure('L', d.used_l) }}</td>
            <td class="number" :class="{ over: d.ratio > 2 }">×{{ d.ratio.toFixed(2) }}</td>
            <td v-if="by === 'by_unit'" class="number">
              {{
                data.doses.per_kw[d.group] === undefined
                  ? '–'
                  : `${(1000 * data.doses.per_kw[d.group]!).toFixed(0)} mL/kW`
              }}
            </td>
            <td class="number">
              {{ figure('L', d.used_l - d.planned_l)
              }}<template v-if="d.money">, {{ d.money.toFixed(0) }} {{ session?.currency }}</template>
            </td>
          </tr>
        </tbody>
      </table>

      <h2>Movements</h2>
      <p v-if="!data.book.moves.length" class="soft">None yet.</p>
      <table v-else class="lines">
        <tbody>
          <tr v-for="(m, i) in data.book.moves" :key="i">
            <td class="nowrap">{{ shortDay(m.day) }}</td>
            <td>{{ m.cleaner }}</td>
            <td>{{ kinds[m.kind as 'bought'].toLowerCase() }}</td>
            <td class="number">{{ figure('L', m.litres) }}</td>
            <td>
              <RouterLink v-if="m.visit_id" :to="`/visits/${m.visit_id}`">visit</RouterLink> {{ m.note }}
            </td>
            <td class="soft">{{ m.by }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 26px 0 8px;
}
form {
  margin-top: 14px;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
}
</style>
