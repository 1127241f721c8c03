<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../../api/client'
import { compute } from '../../core'
import { begun } from '../../offline/owner'
import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { upperFirst } from '../../words'
import { clockOf, useClock } from './clock'
import { type CoilWork, kept, nextDwell, toNextDwell, type Work } from './ledVisit'

/**
 * Spray, stand, rinse: the shortest order that keeps every dwell in its window, over the coils of this visit and of the others
 * that were begun at this site, and the clocks that follow it.
 */
const props = defineProps<{ pack: Schemas['VisitPack'] }>()
const work = defineModel<Work>({ required: true })
const { now } = useClock()
const spray = ref<number | null>(2)
const rinse = ref<number | null>(10)
/** Flushing the sprayer: it is to be done at once, or what is left dries in it (minutes: common practice, no source). */
const flush = ref<number | null>(3)
const plan = ref<Schemas['DwellPlan'] | null>(null)
const failed = ref('')

const wet = computed(() => work.value.coils.map((c, i) => ({ c, i })).filter((x) => x.c.on && x.c.timer))
const name = (c: CoilWork) => c.name ?? props.pack.unit.tag
/** Coils of other visits begun here whose cleaner is chosen and not sprayed yet. */
const together = computed(() =>
  begun()
    .filter((u) => u !== work.value.unit_id)
    .flatMap((u) => {
      const w = kept(u)
      return w && w.site_id === props.pack.unit.site_id
        ? w.coils.filter((c) => c.on && c.timer && c.timer.sprayed === null)
        : []
    }),
)
const joint = ref(true)
const batch = computed(() => [...wet.value.map((x) => x.c), ...(joint.value ? together.value : [])])

/** In how many minutes the place opens today; left out where it is open already, or where nothing is known. */
const opens = computed(() => {
  const times = props.pack.place.windows.filter((w) => w.kind === 'open').map((w) => w.starts)
  const clock = new Date(now.value)
  const minutes = times
    .map(
      (t) => Number(t.slice(0, 2)) * 60 + Number(t.slice(3, 5)) - clock.getHours() * 60 - clock.getMinutes(),
    )
    .filter((m) => m > 0)
  return minutes.length ? Math.min(...minutes) : null
})
/** What is left after the last rinse before people come in, in minutes (common practice, no source). */
const closeUp = ref<number | null>(10)

watch(
  () =>
    JSON.stringify([
      batch.value.map((c) => [c.coil_id, c.timer!.min_s, c.timer!.max_s]),
      spray.value,
      rinse.value,
      flush.value,
      closeUp.value,
      opens.value,
    ]),
  async () => {
    if (!wet.value.length) return
    try {
      plan.value = await compute<Schemas['DwellPlan']>('dwell', {
        coils: batch.value.map((c) => ({
          name: name(c),
          spray_m: spray.value ?? 0,
          rinse_m: rinse.value ?? 0,
          min_m: c.timer!.min_s / 60,
          max_m: c.timer!.max_s / 60,
        })),
        ...(flush.value ? { chores: [{ name: 'flush the sprayer', minutes: flush.value }] } : {}),
        ...(opens.value !== null ? { opens_in_m: opens.value, close_up_m: closeUp.value ?? 0 } : {}),
      })
      failed.value = ''
    } catch (e) {
      plan.value = null
      failed.value = e instanceof Error ? e.message : String(e)
    }
  },
  { immediate: true },
)
/** The latest start as a time of day. */
const latest = computed(() => {
  const m = plan.value?.latest_start_m
  if (m === undefined) return ''
  const at = new Date(now.value + m * 60000)
  return m < 0
    ? 'It opens too soon for this: the last coil would still be wet.'
    : `Begin spraying by ${at.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })} at the latest, so that all is closed up when it opens.`
})

const stood = (t: { sprayed: number | null; rinsed: number | null }) =>
  t.sprayed === null ? 0 : ((t.rinsed ?? now.value) - t.sprayed) / 1000
const over = (t: { sprayed: number | null; rinsed: number | null; max_s: number }) => stood(t) > t.max_s
const doing: Record<string, string> = { spray: 'spray', rinse: 'rinse', wait: 'wait' }
</script>

<template>
  <p v-if="!wet.length" class="soft">This plan uses no cleaner, so there is no dwell time.</p>
  <template v-else>
    <div class="fields two">
      <FigureField v-model="spray" label="Spraying a coil takes" unit="min" />
      <FigureField v-model="rinse" label="Rinsing one takes" unit="min" />
      <FigureField v-model="flush" label="Flushing the sprayer" unit="min" />
      <FigureField v-if="opens !== null" v-model="closeUp" label="Closing up afterwards" unit="min" />
    </div>
    <label v-if="together.length" class="with"
      ><input v-model="joint" type="checkbox" /> In one go with {{ together.map(name).join(', ') }}, begun
      here too
    </label>
    <p v-if="failed" class="notice danger">{{ failed }}</p>
    <p v-if="plan" class="plan">
      <strong>{{ plan.total_m.toFixed(0) }} min in all:</strong>
      <template v-for="(s, i) in plan.steps" :key="i"
        >{{ i ? ', ' : ' ' }}at {{ s.start_m.toFixed(0) }} {{ doing[s.do] ?? s.do
        }}{{ batch.length > 1 && s.coil ? ` ${s.coil}` : '' }}</template
      >.<span v-if="plan.spoiled" class="over">
        All sprayed straight away, the last would stand {{ plan.together_m.toFixed(0) }} min: too long.</span
      >
    </p>
    <ul v-if="plan" class="plain">
      <li v-for="x in plan.chores ?? []" :key="x.name">
        {{ upperFirst(x.name) }}:
        {{
          x.inside ? `from minute ${x.start_m.toFixed(0)}, while it stands` : 'at once after the last rinse'
        }}.
      </li>
      <li v-if="latest" :class="{ over: (plan.latest_start_m ?? 0) < 0 }">{{ latest }}</li>
    </ul>
    <section v-for="{ c, i } in wet" :key="c.coil_id" class="timer">
      <h4>{{ name(c) }}: {{ c.timer!.min_s / 60 }} to {{ c.timer!.max_s / 60 }} min</h4>
      <p class="clock" :class="{ over: over(c.timer!) }" role="timer">
        {{ c.timer!.sprayed === null ? 'not sprayed yet' : clockOf(stood(c.timer!)) }}
        <span v-if="c.timer!.sprayed !== null && c.timer!.rinsed === null" class="soft">{{
          over(c.timer!)
            ? `over its maximum by ${clockOf(stood(c.timer!) - c.timer!.max_s)}: rinse now`
            : stood(c.timer!) < c.timer!.min_s
              ? `${clockOf(c.timer!.min_s - stood(c.timer!))} to its minimum`
              : `${clockOf(c.timer!.max_s - stood(c.timer!))} to its maximum`
        }}</span>
      </p>
      <button
        v-if="c.timer!.sprayed === null"
        type="button"
        class="big"
        @click="work.coils[i]!.timer!.sprayed = Date.now()"
      >
        Sprayed: start the clock
      </button>
      <details v-if="c.timer!.sprayed === null" class="watch">
        <summary>No clock was run</summary>
        <FigureField
          :model-value="c.timer!.said_s == null ? null : c.timer!.said_s / 60"
          label="It stood, by the watch"
          unit="min"
          @update:model-value="
            work.coils[i]!.timer!.said_s = $event === null ? null : Math.round($event * 60)
          "
        />
        <label
          v-if="
            c.timer!.said_s != null && (c.timer!.said_s > c.timer!.max_s || c.timer!.said_s < c.timer!.min_s)
          "
          class="field"
          ><span class="label">{{
            c.timer!.said_s > c.timer!.max_s
              ? 'It stood past its maximum: what was done about it'
              : 'It stood less than its minimum: why'
          }}</span
          ><input v-model="work.coils[i]!.timer!.over" class="plain-input" maxlength="500"
        /></label>
      </details>
      <template v-else-if="c.timer!.rinsed === null">
        <TapChoice
          v-model="work.coils[i]!.timer!.foam"
          label="Foam"
          :options="[
            { value: 'brown', label: 'Brown: still lifting' },
            { value: 'white', label: 'White and still: spent' },
          ]"
        />
        <p v-if="c.timer!.foam === 'brown'" class="soft">
          Go on, never past the maximum; more cleaner if it runs off.
        </p>
        <p v-else-if="c.timer!.foam === 'white'" class="soft">Done once its minimum is reached: rinse.</p>
        <button type="button" class="big" @click="work.coils[i]!.timer!.rinsed = Date.now()">
          Rinsing begins
        </button>
        <button type="button" class="link" @click="work.coils[i]!.timer!.sprayed = null">
          Started by mistake: undo
        </button>
      </template>
      <template v-else>
        <label v-if="over(c.timer!) || stood(c.timer!) < c.timer!.min_s" class="field"
          ><span class="label">{{
            over(c.timer!)
              ? 'It stood past its maximum: what was done about it'
              : 'It stood less than its minimum: why'
          }}</span
          ><input
            v-model="work.coils[i]!.timer!.over"
            class="plain-input"
            maxlength="500"
            placeholder="for example: rinsed twice as long"
        /></label>
        <button type="button" class="link" @click="work.coils[i]!.timer!.rinsed = null">
          Not rinsing yet: take back
        </button>
        <button v-if="nextDwell(c)" type="button" class="big" @click="toNextDwell(work.coils[i]!)">
          Rinsed: cleaner once more
        </button>
      </template>
    </section>
  </template>
</template>

<style scoped>
.big {
  width: 100%;
}
.two {
  grid-template-columns: repeat(2, 1fr);
  gap: 0 12px;
}
.timer {
  border-top: 1px solid var(--hairline);
  padding: 8px 0;
}
h4 {
  margin: 0;
  font-size: 15px;
}
.with {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
}
.plain {
  margin: 0 0 8px;
  padding-left: 18px;
}
.watch summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  color: var(--petrol);
}
.clock {
  font-size: 34px;
  font-weight: 700;
  margin: 2px 0 6px;
  line-height: 1.1;
}
.clock .soft {
  font-size: 15px;
  font-weight: 400;
  display: block;
}
.link {
  min-height: 44px;
}
</style>
