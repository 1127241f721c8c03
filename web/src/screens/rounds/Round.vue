<script setup lang="ts">
import { ElButton } from 'element-plus'
import { ref } from 'vue'

import { api, ApiProblem, ask, problemOf } from '../../api/client'
import { loadCore } from '../../core'
import { refusal } from '../../offline/device'
import { keepPacks } from '../../offline/packs'
import CoilComb from '../../parts/CoilComb.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManageHouse, mayRecord } from '../../session'
import { count, duration, jobWords, longDay, roleWords } from '../../words'
import { progressWords, unitsAt } from '../today/day'
import DayUnitCard from '../today/DayUnitCard.vue'
import WindowLine from './WindowLine.vue'

const props = defineProps<{ id: string }>()
const path = { params: { path: { round_id: props.id } } }
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/rounds/{round_id}', path)))
const refused = ref<ApiProblem | null>(null)

async function withdraw() {
  try {
    data.value = await ask(api.POST('/rounds/{round_id}/withdrawal', path))
    refused.value = null
  } catch (e) {
    refused.value = problemOf(e)
  }
}
const held = ref('')
/** Keeps all that the round's visits need on this phone, for places without network. */
async function keep() {
  const units = [...new Set((data.value?.stops ?? []).flatMap((s) => s.jobs.map((j) => j.unit_id)))]
  try {
    await keepPacks(units, (done) => (held.value = `${done} of ${units.length} kept …`))
    await loadCore()
    held.value = `All ${units.length} units are kept on this phone.`
    refused.value = null
  } catch (e) {
    refused.value = e instanceof DOMException ? new ApiProblem(0, refusal(e), []) : problemOf(e)
  }
}
const became = (key: string) => data.value?.progress.find((p) => p.key === key)
const print = () => window.print()
const mailed = ref('')
async function mail() {
  try {
    const m = await ask(api.POST('/rounds/{round_id}/mails', { ...path, body: {} }))
    mailed.value = `Mail to ${m.to}: ${m.status}.`
    refused.value = null
  } catch (e) {
    refused.value = problemOf(e)
  }
}
</script>

<template>
  <section class="screen">
    <LoadState :loading="loading && !data" :problem="problem" what="the round" @retry="reload" />
    <template v-if="data">
      <div class="screen-head no-print">
        <div>
          <h1>
            {{ longDay(data.day) }}: {{ data.crew }}, {{ count(data.stops.length, 'stop') }},
            {{ duration(data.minutes) }}.
          </h1>
          <p v-if="data.status === 'withdrawn'" class="over">Withdrawn: its work is due again.</p>
          <p v-else-if="data.status === 'superseded'" class="over">A newer one replaced it.</p>
          <p v-else class="soft">
            Published by {{ data.published_by }}; kept as it went out{{
              data.sequence > 1 ? `, for the ${data.sequence}. time` : ''
            }}. Leaves at {{ data.starts }}, back {{ data.back }},
            {{ duration(data.driving_minutes) }} driving, {{ duration(data.hours_minutes) }} of hours.
          </p>
        </div>
        <div class="actions">
          <ElButton v-if="mayManageHouse() && data.status === 'published'" @click="withdraw"
            >Withdraw</ElButton
          >
          <ElButton v-if="mayRecord() && data.status === 'published'" @click="keep"
            >Keep it on this phone</ElButton
          >
          <ElButton v-if="mayManageHouse()" @click="mail">Mail to the crew</ElButton>
          <a class="el-button" :href="`/api/v1/rounds/${data.id}/sheets`" download>Sheets as PDF</a>
          <ElButton type="primary" @click="print">Print sheets</ElButton>
        </div>
      </div>
      <ProblemNote :problem="refused" />
      <p v-if="held" class="notice no-print" role="status">
        {{ held }} <RouterLink to="/outbox">What is kept</RouterLink>
      </p>
      <p v-if="mailed" class="notice no-print" role="status">{{ mailed }}</p>
      <details class="phone-only">
        <summary>Cautions</summary>
        <ol>
          <li v-for="c in data.cautions" :key="c">{{ c }}</li>
        </ol>
        <p>
          <strong>{{ data.deferral }}</strong>
        </p>
      </details>
      <article v-for="(stop, i) in data.stops" :key="stop.site_id" class="sheet">
        <header>
          <p class="soft">
            {{ longDay(data.day) }} · {{ data.crew }} · stop {{ i + 1 }} of {{ data.stops.length }} ·
            {{ duration(stop.minutes) }}
            <strong v-if="data.status === 'withdrawn'" class="over"> · WITHDRAWN</strong>
          </p>
          <h2>{{ stop.site }}</h2>
          <p>
            {{ stop.address }}<template v-if="stop.contact"> · ask for {{ stop.contact }}</template
            ><template v-if="stop.access_note"> · {{ stop.access_note }}</template>
          </p>
          <WindowLine :windows="stop.windows" />
          <p>
            Arrive <strong>{{ stop.arrive }}</strong>, at the latest {{ stop.latest }}; done {{ stop.leave }}.
          </p>
        </header>
        <div class="phone-only">
          <DayUnitCard
            v-for="u in unitsAt(stop, data, { begun: [], waiting: [], returned: [] })"
            :key="u.unit_id"
            :unit="u"
            :round="data"
            :pack="null"
            :bare="!mayRecord() || data.status !== 'published'"
          />
        </div>
        <div class="cautions desk-only">
          <h3>Cautions</h3>
          <ol>
            <li v-for="c in data.cautions" :key="c">{{ c }}</li>
          </ol>
          <p>
            <strong>{{ data.deferral }}</strong>
          </p>
        </div>
        <table class="lines desk-only">
          <thead>
            <tr>
              <th scope="col">Unit</th>
              <th scope="col">Work</th>
              <th scope="col">Sides to reach</th>
              <th scope="col">Soil expected</th>
              <th scope="col">Why</th>
              <th scope="col" class="number">Time</th>
              <th scope="col" class="hand">Found</th>
              <th scope="col" class="hand">Left</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="j in stop.jobs" :key="j.key">
              <td>
                <RouterLink :to="`/units/${j.unit_id}`"
                  ><strong>{{ j.tag }}</strong></RouterLink
                ><br /><span class="soft">{{ j.class }}, {{ j.placement }}</span
                ><br /><RouterLink
                  v-if="mayRecord() && data.status === 'published'"
                  class="no-print"
                  :to="`/units/${j.unit_id}/work?job=${(j.visit_for ?? []).join(',')}&round=${data.id}`"
                  >Start the visit</RouterLink
                >
                <div v-if="became(j.key)" class="no-print">
                  <strong>{{ progressWords[became(j.key)!.state] }}</strong><template
                    v-if="became(j.key)!.why"
                    >: {{ became(j.key)!.why }}</template
                  >
                  <span v-if="became(j.key)!.by" class="soft"> ({{ became(j.key)!.by }})</span>
                </div>
              </td>
              <td>
                {{ j.starts }} <template v-if="j.coil_role">{{ roleWords[j.coil_role] }}, </template
                >{{ jobWords[j.kind] }}
                <div v-for="r in j.riders" :key="r.kind" class="soft">with {{ jobWords[r.kind] }}</div>
                <div v-if="j.needs.length" class="soft">{{ j.needs.join(', ') }}</div>
              </td>
              <td>{{ j.sides.join(', ') }}</td>
              <td><CoilComb v-if="j.coil_id" :state="j.state" /></td>
              <td>
                {{ j.reasons.map((r) => r.text).join(' ') }}
              </td>
              <td class="number">{{ duration(j.minutes) }}</td>
              <td class="hand"></td>
              <td class="hand"></td>
            </tr>
          </tbody>
        </table>
      </article>
      <article v-if="data.load.length" class="sheet">
        <h2>Load for {{ data.crew }}, {{ longDay(data.day) }}</h2>
        <ul class="packing">
          <li v-for="l in data.load" :key="l.what">{{ l.text }}</li>
        </ul>
      </article>
    </template>
  </section>
</template>

<style scoped>
.sheet {
  border-top: 2px solid var(--ink);
  padding-top: 12px;
  margin: 22px 0 30px;
}
summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.packing {
  list-style: '☐  ';
}
.hand {
  width: 74px;
  border-left: 1px solid var(--hairline);
  padding-left: 8px !important;
}
.cautions {
  margin-top: 14px;
  font-size: 13.5px;
}
.cautions ol {
  margin: 4px 0 8px;
  padding-left: 20px;
  columns: 2;
  column-gap: 34px;
}
@media (max-width: 700px) {
  .cautions ol {
    columns: 1;
  }
  .sheet {
    overflow-x: auto;
  }
}
@media print {
  .sheet {
    border: 0;
    margin: 0;
    padding: 0;
    overflow: visible;
  }
  .sheet:not(:last-of-type) {
    break-after: page;
  }
  tr {
    break-inside: avoid;
  }
  .screen {
    padding: 0;
  }
  a {
    color: inherit;
    text-decoration: none;
  }
}
</style>
