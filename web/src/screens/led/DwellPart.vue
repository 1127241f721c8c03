<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../../api/client'
import { compute } from '../../core'
import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { roleWords, upperFirst } from '../../words'
import { clockOf, useClock } from './clock'
import { nextDwell, toNextDwell, type Work } from './ledVisit'

/** Spray, stand, rinse: the shortest order that keeps every dwell in its window, and the clocks that follow it. */
const props = defineProps<{ pack: Schemas['VisitPack'] }>()
const work = defineModel<Work>({ required: true })
const { now } = useClock()
const spray = ref<number | null>(2)
const rinse = ref<number | null>(10)
const plan = ref<Schemas['DwellPlan'] | null>(null)
const failed = ref('')

const wet = computed(() => work.value.coils.map((c, i) => ({ c, i })).filter((x) => x.c.on && x.c.timer))
const name = (coil: string) => upperFirst(roleWords[props.pack.unit.coils.find((u) => u.id === coil)!.role])

watch(
  () =>
    JSON.stringify([
      wet.value.map((x) => [x.c.coil_id, x.c.timer!.min_s, x.c.timer!.max_s]),
      spray.value,
      rinse.value,
    ]),
  async () => {
    if (!wet.value.length) return
    try {
      plan.value = await compute<Schemas['DwellPlan']>('dwell', {
        coils: wet.value.map((x) => ({
          name: name(x.c.coil_id),
          spray_m: spray.value ?? 0,
          rinse_m: rinse.value ?? 0,
          min_m: x.c.timer!.min_s / 60,
          max_m: x.c.timer!.max_s / 60,
        })),
      })
      failed.value = ''
    } catch (e) {
      plan.value = null
      failed.value = e instanceof Error ? e.message : String(e)
    }
  },
  { immediate: true },
)

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
    </div>
    <p v-if="failed" class="notice danger">{{ failed }}</p>
    <p v-if="plan" class="plan">
      <strong>{{ plan.total_m.toFixed(0) }} min in all:</strong>
      <template v-for="(s, i) in plan.steps" :key="i"
        >{{ i ? ', ' : ' ' }}at {{ s.start_m.toFixed(0) }} {{ doing[s.do] ?? s.do
        }}{{ wet.length > 1 && s.coil ? ` ${s.coil.toLowerCase()}` : '' }}</template
      >.<span v-if="plan.spoiled" class="over">
        All sprayed straight away, the last would stand {{ plan.together_m.toFixed(0) }} min: too long.</span
      >
    </p>
    <section v-for="{ c, i } in wet" :key="c.coil_id" class="timer">
      <h4>{{ name(c.coil_id) }}: {{ c.timer!.min_s / 60 }} to {{ c.timer!.max_s / 60 }} min</h4>
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
