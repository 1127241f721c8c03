<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'

import { api, ask, problemOf, type Schemas } from '../../api/client'
import { compute } from '../../core'
import FigureField from '../../parts/FigureField.vue'
import SureButton from '../../parts/SureButton.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { readingFigure, readingQuantity } from '../../units'
import { session } from '../../session'
import { verdictWords } from '../../words'
import type { Work } from './ledVisit'

/** Readings before or after, typed or taken from the gauge set, each judged at once. */
const props = defineProps<{
  pack: Schemas['VisitPack']
  phase: 'before' | 'after'
  guest: boolean
  step?: string
}>()
const work = defineModel<Work>({ required: true })

type Judged = Schemas['ReadingJudgement'] & { text: string }
/** Where the step is about the goods, it opens on them. */
const kind = ref(props.step === 'goods_out' ? 'food_c' : 'ambient_c')
const units = computed(() => session.value?.units ?? 'metric')
const value = ref<number | null>(null)
const nameplate = ref<number | null>(null)
const judged = ref<Record<string, Judged | null>>({})
const wrong = ref('')
const gauges = ref<Schemas['GaugeReading'] | null>(null)
const gaugeProblem = ref('')
const asking = ref(false)
const headControl = ref(false)

const facts = (k: string) => props.pack.reading_kinds.find((x) => x.kind === k)
const mine = computed(() =>
  work.value.readings.map((r, i) => ({ r, i })).filter((x) => x.r.phase === props.phase),
)
const ambient = computed(() => mine.value.find((x) => x.r.kind === 'ambient_c')?.r.value)
const airOn = computed(() => mine.value.find((x) => x.r.kind === 'air_on_c')?.r.value)
const wantsPlate = computed(
  () => facts(kind.value)?.needs?.includes('nameplate') && plateOf(kind.value) === undefined,
)
const plateOf = (k: string) =>
  k === 'supply_v' ? props.pack.volts : k === 'motor_a' ? props.pack.amps : undefined

function context(r: Schemas['NewReading']): Schemas['ReadingContext'] {
  const plate = r.context?.nameplate ?? plateOf(r.kind)
  return {
    ...props.pack.context,
    ...(ambient.value !== undefined ? { ambient_c: ambient.value } : {}),
    ...(airOn.value !== undefined ? { air_on_c: airOn.value } : {}),
    ...(plate !== undefined ? { nameplate: plate } : {}),
    ...(r.context?.head_control ? { head_control: true } : {}),
  }
}

watch(
  () => JSON.stringify(mine.value.map((x) => [x.r.kind, x.r.value, context(x.r)])),
  async () => {
    const out: Record<string, Judged | null> = {}
    for (const { r, i } of mine.value) {
      out[i] = await compute<Judged>('reading', {
        kind: r.kind,
        value: r.value,
        context: context(r),
        units: units.value,
      }).catch(() => null)
    }
    judged.value = out
  },
  { immediate: true },
)

async function add() {
  if (value.value === null) return
  const r: Schemas['NewReading'] = {
    phase: props.phase,
    kind: kind.value,
    value: value.value,
    source: 'typed',
  }
  const own: Schemas['ReadingContext'] = {
    ...(ambient.value !== undefined ? { ambient_c: ambient.value } : {}),
    ...(airOn.value !== undefined ? { air_on_c: airOn.value } : {}),
    ...(nameplate.value !== null ? { nameplate: nameplate.value } : {}),
    ...(headControl.value ? { head_control: true } : {}),
  }
  r.context = own
  try {
    await compute('reading', { kind: r.kind, value: r.value, context: context(r) })
  } catch (e) {
    wrong.value = e instanceof Error ? e.message.replace(/^value: /, '') : String(e)
    return
  }
  wrong.value = ''
  work.value.readings.push(r)
  value.value = null
  nameplate.value = null
}

async function askGauges() {
  asking.value = true
  gaugeProblem.value = ''
  try {
    gauges.value = await ask(
      api.GET('/units/{unit_id}/gauges', {
        params: { path: { unit_id: props.pack.unit.id }, query: { phase: props.phase } },
      }),
    )
  } catch (e) {
    gauges.value = null
    gaugeProblem.value = problemOf(e).message
  } finally {
    asking.value = false
  }
}

function takeGauges() {
  const good = (gauges.value?.probes ?? []).filter((p) => p.ok && p.value !== undefined)
  const known = (k: string) => good.find((p) => p.kind === k)?.value
  work.value.readings = work.value.readings.filter(
    (r) => r.phase !== props.phase || r.source !== 'gauge' || !good.some((p) => p.kind === r.kind),
  )
  for (const p of good) {
    const air = known('ambient_c') ?? ambient.value
    const on = known('air_on_c') ?? airOn.value
    work.value.readings.push({
      phase: props.phase,
      kind: p.kind,
      value: p.value!,
      source: 'gauge',
      context: {
        ...(air !== undefined ? { ambient_c: air } : {}),
        ...(on !== undefined ? { air_on_c: on } : {}),
        ...(headControl.value ? { head_control: true } : {}),
      },
    })
  }
  gauges.value = null
}
const before = (k: string) =>
  props.phase === 'after' ? work.value.readings.find((r) => r.phase === 'before' && r.kind === k) : undefined
const last = computed(() => (props.phase === 'before' ? props.pack.last_readings : []))
</script>

<template>
  <p v-if="last.length" class="soft">
    Last time{{ last[0]!.day ? `, ${last[0]!.day}` : '' }}:
    <template v-for="(r, i) in last" :key="i"
      >{{ i ? '; ' : '' }}{{ r.name.toLowerCase() }} {{ r.phase }}
      {{ readingFigure(r.kind, r.value, r.unit) }}</template
    >.
  </p>
  <table v-if="mine.length" class="lines">
    <tbody>
      <tr v-for="{ r, i } in mine" :key="i">
        <td>
          {{ facts(r.kind)?.name }}
          <div class="soft">{{ r.source === 'gauge' ? 'gauge set' : 'typed' }}</div>
        </td>
        <td class="number">
          <strong>{{ readingFigure(r.kind, r.value, facts(r.kind)?.unit ?? '') }}</strong>
          <div v-if="before(r.kind)" class="soft">
            before {{ readingFigure(r.kind, before(r.kind)!.value, facts(r.kind)?.unit ?? '') }}
          </div>
        </td>
        <td>
          <template v-if="judged[i]">
            <strong
              v-if="judged[i]!.verdict !== 'no_verdict'"
              :class="{ over: judged[i]!.verdict === 'fail' }"
              >{{ verdictWords[judged[i]!.verdict] }}</strong
            >
            <div class="soft">{{ judged[i]!.text }}</div>
            <label v-if="judged[i]!.cause_needed" class="field"
              ><span class="label">What is the cause</span
              ><input
                :value="r.cause ?? ''"
                class="plain-input"
                maxlength="500"
                @input="work.readings[i]!.cause = ($event.target as HTMLInputElement).value"
            /></label>
          </template>
        </td>
        <td>
          <SureButton
            look="away"
            label="×"
            :name="`Remove ${facts(r.kind)?.name}`"
            ask="Erase it?"
            @sure="work.readings.splice(i, 1)"
          />
        </td>
      </tr>
    </tbody>
  </table>
  <div class="fields two">
    <label class="field"
      ><span class="label">Reading</span>
      <ElSelect v-model="kind" size="large" aria-label="Reading">
        <ElOption
          v-for="k in pack.reading_kinds.filter((x) => x.kind !== 'isolation_v')"
          :key="k.kind"
          :value="k.kind"
          :label="k.licensed ? `${k.name} (licensed)` : k.name"
        />
      </ElSelect>
    </label>
    <FigureField
      v-model="value"
      label="Value"
      :error="wrong"
      v-bind="
        readingQuantity(kind) ? { quantity: readingQuantity(kind)! } : { unit: facts(kind)?.unit ?? '' }
      "
    />
    <FigureField
      v-if="wantsPlate"
      v-model="nameplate"
      label="Nameplate or rating"
      :unit="facts(kind)?.unit ?? ''"
    />
  </div>
  <TapChoice
    v-if="kind === 'high_pressure_kpa'"
    v-model="headControl"
    label="Head-pressure control at work"
    :options="[
      { value: false, label: 'No' },
      { value: true, label: 'Yes' },
    ]"
  />
  <div class="row">
    <button type="button" class="plain-button" :disabled="value === null" @click="add">
      Add the reading
    </button>
    <button v-if="!guest" type="button" class="plain-button" :disabled="asking" @click="askGauges">
      {{ asking ? 'Asking …' : 'Ask the gauge set' }}
    </button>
  </div>
  <p v-if="gaugeProblem" class="notice">{{ gaugeProblem }}</p>
  <div v-if="gauges" class="set">
    <p class="soft">{{ gauges.instrument }}</p>
    <ul>
      <li v-for="p in gauges.probes" :key="p.probe" :class="{ soft: !p.ok }">
        {{ p.probe }}:
        <strong v-if="p.value !== undefined">{{
          readingFigure(p.kind, p.value, facts(p.kind)?.unit ?? '')
        }}</strong>
        <span v-if="!p.ok" class="over"> {{ p.text }}</span>
        <span v-else class="soft"> battery {{ Math.round(p.battery_share * 100) }} %</span>
      </li>
    </ul>
    <div class="row">
      <button type="button" class="plain-button" @click="takeGauges">Use the trusted ones</button>
      <button type="button" class="plain-button" @click="askGauges">Ask again</button>
    </div>
  </div>
</template>

<style scoped>
.row .plain-button {
  flex: 1;
}
.two {
  grid-template-columns: repeat(2, 1fr);
  gap: 0 12px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 8px;
}
:deep(.away) {
  width: 44px;
  height: 44px;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font-size: 20px;
  cursor: pointer;
}
ul {
  padding-left: 18px;
  margin: 4px 0 8px;
}
</style>
