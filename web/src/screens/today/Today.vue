<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { problemOf, type Schemas } from '../../api/client'
import { refusal } from '../../offline/device'
import { flush, readOutbox, returned, waiting } from '../../offline/outbox'
import { begun } from '../../offline/owner'
import { keepDay, keptPacks, todayOf, unitsOf } from '../../offline/today'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import { count, duration, longDay, moment } from '../../words'
import WindowLine from '../rounds/WindowLine.vue'
import { type DayUnit, isOver, mapOf, nextAfter, unitsAt, workAt } from './day'
import DayUnitCard from './DayUnitCard.vue'
import InstallNote from './InstallNote.vue'
import LoadTicks from './LoadTicks.vue'

/** A crew's day in order, kept on the phone with everything it needs. */
const route = useRoute()
const router = useRouter()
const crew = ref(String(route.query['crew'] ?? ''))
const packs = ref<Record<string, Schemas['VisitPack']>>({})
const kept = ref(0)
const keeping = ref('')
const drafts = ref<string[]>([])
const { data, problem, loading, reload } = useLoad(async () => {
  const got = await todayOf(crew.value)
  if (got.day.round) {
    packs.value = await keptPacks(unitsOf(got.day.round))
    kept.value = Object.keys(packs.value).length
    if (got.fresh) void keep(got.day.round)
  }
  return got
})
const round = computed(() => data.value?.day.round)
const all = computed(() => (round.value ? unitsOf(round.value).length : 0))

async function keep(r: Schemas['Round']) {
  keeping.value = ''
  let done = 0
  try {
    await keepDay(r, (n) => (done = n))
  } catch (e) {
    keeping.value =
      e instanceof DOMException
        ? refusal(e)
        : `Only ${done} of ${unitsOf(r).length} units were read: ${problemOf(e).message}`
  }
  packs.value = await keptPacks(unitsOf(r))
  kept.value = Object.keys(packs.value).length
}

onMounted(async () => {
  drafts.value = begun()
  await readOutbox()
  void flush()
})
watch(crew, (c) => {
  void router.replace({ query: c ? { crew: c } : {} })
  void reload()
})

const phone = computed(() => ({ begun: drafts.value, waiting: waiting.value, returned: returned.value }))
const stops = computed(() =>
  (round.value?.stops ?? []).map((stop) => ({ stop, units: unitsAt(stop, round.value!, phone.value) })),
)
const units = computed(() => stops.value.flatMap((s) => s.units))
const left = computed(() => units.value.filter((u) => !isOver(u.state)))
/** After a visit was sent from here, the next unit stands on top. */
const after = computed(() => String(route.query['after'] ?? ''))
const sentTag = computed(() => units.value.find((u) => u.unit_id === after.value)?.tag ?? '')
const next = computed(() => nextAfter(units.value, after.value))
/** Visits begun on this phone that are no part of the round. */
const others = computed(() => drafts.value.filter((d) => !units.value.some((u) => u.unit_id === d)))
const other = ref<Record<string, string>>({})
watch(others, async (list) => {
  const found = await keptPacks(list)
  other.value = Object.fromEntries(list.map((u) => [u, found[u]?.unit.tag ?? 'a unit']))
})
const isToday = computed(() => round.value?.day === data.value?.day.today)
const begunAt = (u: DayUnit) => workAt(u, round.value?.id ?? '')
const refused = computed(() => waiting.value.filter((w) => w.state === 'refused').length)
</script>

<template>
  <section class="screen today">
    <LoadState :loading="loading && !data" :problem="problem" what="the day" @retry="reload" />
    <template v-if="data">
      <template v-if="round">
        <h1>
          {{ isToday ? 'Today' : longDay(round.day) }}: {{ count(stops.length, 'stop') }},
          {{ count(all, 'unit') }}<template v-if="left.length < all">, {{ left.length }} left</template>.
        </h1>
        <p class="soft">
          {{ round.crew }}<template v-if="isToday">, {{ longDay(round.day) }}</template
          >: leave at {{ round.starts }}, back {{ round.back }}.
          <template v-if="!isToday">Nothing is out for today; this is the next round.</template>
        </p>
      </template>
      <template v-else>
        <h1>{{ data.day.crew ? `No round is out for ${data.day.crew.name}.` : 'You are in no crew.' }}</h1>
        <p v-if="!data.day.crew" class="soft">
          Whoever plans puts people into crews, under People. Until then, choose one to see its day.
        </p>
      </template>
      <p v-if="data.day.round" class="soft kept" role="status">
        <template v-if="!data.fresh">No network: as it was kept at {{ moment(data.at) }}. </template>
        <template v-if="kept === all">Kept on this phone: all {{ count(all, 'unit') }}.</template>
        <template v-else>Kept on this phone: {{ kept }} of {{ count(all, 'unit') }}.</template>
      </p>
      <p v-if="data.unkept || keeping" class="notice danger" role="alert">{{ data.unkept || keeping }}</p>
      <div v-if="after && sentTag" class="notice next" role="status">
        <p>
          <strong>{{ sentTag }} is saved.</strong>
          <template v-if="!next"> That was the last unit of the day.</template>
        </p>
        <RouterLink v-if="next" class="big" :to="begunAt(next)"
          >Next: {{ next.tag }}, {{ next.placement }}</RouterLink
        >
      </div>
      <p v-if="refused" class="notice danger">
        {{ count(refused, 'visit') }} refused by the server. <RouterLink to="/outbox">See why</RouterLink>
      </p>
      <p v-for="u in others" :key="u" class="notice">
        Begun and not sent: {{ other[u] }}. <RouterLink :to="`/units/${u}/work`">Continue</RouterLink>
      </p>
      <template v-if="round">
        <LoadTicks :round="round" />
        <details class="cautions">
          <summary>Cautions</summary>
          <ol>
            <li v-for="c in round.cautions" :key="c">{{ c }}</li>
          </ol>
          <p>
            <strong>{{ round.deferral }}</strong>
          </p>
        </details>
        <section
          v-for="({ stop, units: here }, i) in stops"
          :key="stop.site_id"
          class="stop"
          :aria-labelledby="`stop-${i}`"
        >
          <h2 :id="`stop-${i}`">{{ i + 1 }} {{ stop.site }}</h2>
          <p>
            Arrive <strong>{{ stop.arrive }}</strong>, at the latest {{ stop.latest }}; done {{ stop.leave }}
            <span class="soft"
              >({{ duration(stop.minutes)
              }}<template v-if="stop.drive_minutes">, {{ duration(stop.drive_minutes) }} driving</template
              >)</span
            >
          </p>
          <p class="reach">
            <a class="button" :href="mapOf(stop)">{{ stop.address || 'Open the map' }}</a>
            <a v-if="stop.phone" class="button" :href="`tel:${stop.phone.replace(/[^+\d]/g, '')}`"
              >Call {{ stop.phone }}</a
            >
          </p>
          <dl>
            <template v-if="stop.contact"
              ><dt>Ask for</dt>
              <dd>{{ stop.contact }}</dd></template
            >
            <template v-if="stop.keys"
              ><dt>Keys</dt>
              <dd>{{ stop.keys }}</dd></template
            >
            <template v-if="stop.access_note"
              ><dt>Access</dt>
              <dd>{{ stop.access_note }}</dd></template
            >
            <template v-if="stop.windows.length"
              ><dt>Hours</dt>
              <dd><WindowLine :windows="stop.windows" /></dd
            ></template>
          </dl>
          <DayUnitCard
            v-for="u in here"
            :key="u.unit_id"
            :unit="u"
            :round="round"
            :pack="packs[u.unit_id] ?? null"
          />
        </section>
      </template>
      <label v-if="!data.day.crew || data.day.crews.length > 1" class="field crew"
        ><span class="label">{{ data.day.crew ? 'Another crew’s day' : 'Crew' }}</span>
        <select v-model="crew" class="plain-input">
          <option value="">{{ data.day.crew && !crew ? data.day.crew.name : 'my own' }}</option>
          <option
            v-for="c in data.day.crews.filter((x) => x.id !== data!.day.crew?.id || crew)"
            :key="c.id"
            :value="c.id"
          >
            {{ c.name }}
          </option>
        </select>
      </label>
      <InstallNote />
    </template>
  </section>
</template>

<style scoped>
.today {
  max-width: 760px;
}
h1 {
  margin-bottom: 2px;
}
.kept {
  margin-top: 4px;
}
.next .big {
  display: flex;
  width: 100%;
  text-decoration: none;
}
.crew {
  max-width: 320px;
}
.cautions summary {
  color: var(--petrol);
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.cautions ol {
  padding-left: 22px;
}
.stop {
  border-top: 2px solid var(--ink);
  margin-top: 14px;
}
.stop h2 {
  margin: 8px 0 2px;
}
.stop p {
  margin: 0 0 6px;
}
.reach {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.reach .button {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 14px;
  margin: 0 0 8px;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
</style>
