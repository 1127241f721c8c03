<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'

import type { Schemas } from '../../api/client'
import { compute } from '../../core'
import PlanList from '../../parts/PlanList.vue'
import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { figure } from '../../units'
import { gradeOf, kindWords, roleWords, upperFirst } from '../../words'
import { type CoilWork, mapShare, type Work } from './ledVisit'

/** Advice for each coil from what was found on it, worked out by the core on the phone; the choice, its mix and dose. */
const props = defineProps<{ pack: Schemas['VisitPack'] }>()
const work = defineModel<Work>({ required: true })
const advice = ref<(Schemas['MethodAdvice'] | null)[]>([])
const mixes = ref<(Schemas['MixResult'] | null)[]>([])
const failed = ref('')

/** What the crew carries rules out what it cannot do; until a crew is named, everything is taken to be there. */
const kitOf = computed(() => props.pack.kits?.find((k) => k.crew === work.value.crew)?.kit)
/** Sealed refrigeration is never hosed, and frost is for work under the sky: nothing is asked that decides nothing. */
const asksWater = computed(() => !props.pack.tags.includes('plug_in'))
/** Nobody has said whether there is water: neither here nor in the register. */
const unknownWater = computed(
  () => asksWater.value && work.value.place.water === null && props.pack.place.water === 'unknown',
)
const waterSays = {
  yes: 'Running water here (the register says yes)',
  no: 'Running water here (the register says none)',
  unknown: 'Running water here',
}
const outdoors = computed(() => props.pack.tags.includes('outdoors'))

function input(c: CoilWork, i: number): Schemas['AdviceInput'] {
  const base = props.pack.coils[i]!.advice
  let grade = 0
  let through = true
  let kind = base.found.kind
  for (const s of c.sides.filter((x) => x.reached)) {
    const share = mapShare(s.found)
    if (share !== null && gradeOf(share) >= grade) {
      grade = gradeOf(share)
      through = s.seen !== '' && s.seen !== 'face_look'
      const code = props.pack.catalogue.soils.find((x) => x.id === s.soils[0])?.code
      if (code) kind = code
    }
  }
  return {
    ...base,
    work: c.work,
    found: { kind, grade, through },
    place: {
      ...base.place,
      water: work.value.place.water ?? props.pack.place.water === 'yes',
      water_unknown: unknownWater.value,
      ...(work.value.place.low_c !== null ? { low_c: work.value.place.low_c } : {}),
    },
    overrides: Object.keys(work.value.exceptions),
    ...(kitOf.value ? { kit: kitOf.value } : {}),
  }
}

let asked = 0
watch(
  () => JSON.stringify(work.value.coils.map((c, i) => (c.on ? input(c, i) : null))),
  async (text) => {
    const mine = ++asked
    const inputs = JSON.parse(text) as (Schemas['AdviceInput'] | null)[]
    try {
      const all = await Promise.all(
        inputs.map((x) => (x ? compute<Schemas['MethodAdvice']>('advise', x) : Promise.resolve(null))),
      )
      if (mine === asked) advice.value = all
      failed.value = ''
    } catch (e) {
      failed.value = e instanceof Error ? e.message : String(e)
    }
  },
  { immediate: true },
)
watch(
  () =>
    JSON.stringify(work.value.coils.map((c) => [c.water_parts, c.planned_mix_l, c.setting_id, c.cleaner])),
  async () => {
    mixes.value = await Promise.all(
      work.value.coils.map((c) => {
        const k = cleanerOf(c)
        if (k?.form !== 'concentrate' || c.water_parts === null || !c.planned_mix_l)
          return Promise.resolve(null)
        const tank = props.pack.sprayers.find((s) => s.id === c.setting_id)?.tank_l
        return compute<Schemas['MixResult']>('mix', {
          water_parts: c.water_parts,
          mix_l: c.planned_mix_l,
          ...(tank ? { tank_l: tank } : {}),
          ...(k.pack_l ? { pack_l: k.pack_l } : {}),
          ...(k.pack_price ? { pack_price: k.pack_price } : {}),
        }).catch(() => null)
      }),
    )
  },
  { immediate: true },
)

/** What the forecast says of today. */
const today = computed(() => {
  const f = props.pack.forecast
  const d = f.days[0]
  return {
    text:
      !f.known || !d
        ? `No forecast: ${f.why_not}`
        : `${f.source}: ${figure('degC', d.low_c)} to ${figure('degC', d.high_c)} today. No wet work outdoors below ${figure('degC', 4)}.`,
  }
})
const cleanerOf = (c: CoilWork) => props.pack.coils[0]?.advice.cleaners?.find((x) => x.code === c.cleaner)

const keyOf = (p: Schemas['WorkPlan']) =>
  p.passes.map((x) => `${x.method} ${x.cleaner ?? ''} ${x.where}`).join(', ')
function choose(i: number, p: Schemas['WorkPlan']) {
  const c = work.value.coils[i]!
  const o = p.passes[p.main]!
  c.plan = keyOf(p)
  c.passes = p.passes.map((x, k) => ({
    method: x.method,
    cleaner: x.cleaner ?? '',
    direction: x.direction,
    out: x.where === 'taken_out',
    main: k === p.main,
    ...(x.dwell_max_s ? { min_s: x.dwell_min_s ?? 0, max_s: x.dwell_max_s } : {}),
    ...(k !== p.main && x.water_parts !== undefined ? { water_parts: x.water_parts } : {}),
    ...(k !== p.main && x.cleaner && x.amount_l ? { planned_l: round(x.amount_l) } : {}),
  }))
  c.method = o.method
  c.cleaner = o.cleaner ?? ''
  c.direction = o.direction
  c.water_parts = o.water_parts ?? null
  c.planned_l = o.cleaner && o.amount_l ? round(o.amount_l) : null
  c.planned_mix_l = o.mix_l ? round(o.mix_l) : null
  c.planned_rinse_l = o.rinse_l ? round(o.rinse_l) : null
  c.setting_id = ''
  c.timer = o.dwell_max_s
    ? {
        min_s: o.dwell_min_s ?? 0,
        max_s: o.dwell_max_s,
        sprayed: null,
        rinsed: null,
        done: null,
        over: '',
        foam: '',
      }
    : null
}
const round = (v: number) => Number(v.toPrecision(3))
function useSetting(i: number) {
  const c = work.value.coils[i]!
  const s = props.pack.sprayers.find((x) => x.id === c.setting_id)
  if (!s) return
  c.water_parts = s.water_parts
  if (c.planned_mix_l) c.planned_l = round(c.planned_mix_l / (1 + s.water_parts))
}
const slabs = (i: number) => props.pack.coils[i]!.advice.coil.slabs > 1
</script>

<template>
  <p v-if="failed" class="notice danger" role="alert">{{ failed }}</p>
  <p v-if="unknownWater" class="notice">
    Nobody has said whether there is running water here. Until you do, the advice goes without it.
  </p>
  <label v-if="pack.kits?.length" class="field"
    ><span class="label">What is on the van</span>
    <select v-model="work.crew" class="plain-input">
      <option value="">everything there is</option>
      <option v-for="k in pack.kits" :key="k.crew" :value="k.crew">the kit of {{ k.crew }}</option>
    </select>
  </label>
  <div v-if="asksWater || outdoors" class="fields">
    <TapChoice
      v-if="asksWater"
      v-model="work.place.water"
      :label="waterSays[pack.place.water]"
      :options="[
        { value: true, label: 'Yes' },
        { value: false, label: 'No' },
      ]"
    />
    <FigureField
      v-if="outdoors"
      v-model="work.place.low_c"
      label="Coldest during the work"
      quantity="degC"
      :hint="today.text"
    />
  </div>
  <template v-for="(c, i) in work.coils" :key="c.coil_id">
    <section v-if="c.on">
      <h4>
        {{ upperFirst(roleWords[pack.unit.coils.find((u) => u.id === c.coil_id)!.role]) }}
      </h4>
      <TapChoice
        v-model="work.coils[i]!.work"
        hide-label
        label="Light or deep"
        :options="[
          { value: 'deep', label: kindWords.deep },
          { value: 'light', label: kindWords.light },
        ]"
      />
      <PlanList
        v-if="advice[i]"
        v-model:aside="work.exceptions"
        :advice="advice[i]!"
        :sprayers="pack.sprayers"
        :cleaners="pack.coils[i]!.advice.cleaners ?? []"
        :chosen="c.plan ?? ''"
        @choose="(p) => choose(i, p)"
      />
      <p v-else-if="!failed" class="soft">Calculating …</p>
      <template v-if="c.method && c.cleaner">
        <h5>Mix and dose</h5>
        <label v-if="cleanerOf(c)?.form === 'concentrate' && pack.sprayers.length" class="field"
          ><span class="label">Sprayer’s setting</span>
          <ElSelect
            v-model="work.coils[i]!.setting_id"
            size="large"
            clearable
            placeholder="mixed by hand"
            aria-label="Sprayer’s setting"
            @change="useSetting(i)"
          >
            <ElOption
              v-for="s in pack.sprayers"
              :key="s.id"
              :value="s.id"
              :label="`${s.sprayer}, ${s.name}: ${s.water_parts}:1`"
            />
          </ElSelect>
        </label>
        <p v-if="mixes[i]" class="mix">
          <strong
            >{{ figure('L', mixes[i]!.cleaner_l) }} cleaner,
            {{ figure('L', mixes[i]!.water_l) }} water.</strong
          >
          That is {{ mixes[i]!.fl_oz_per_gal_of_mix.toFixed(1) }} fl oz per gallon of mix ({{
            Math.round(mixes[i]!.ml_per_l_of_mix)
          }}
          mL per litre of mix), but {{ mixes[i]!.fl_oz_per_gal_of_water.toFixed(1) }} per gallon of water ({{
            Math.round(mixes[i]!.ml_per_l_of_water)
          }}
          mL per litre of water).<template v-if="mixes[i]!.fills">
            {{ mixes[i]!.fills }} fill{{ mixes[i]!.fills === 1 ? '' : 's' }} of the tank.</template
          >
        </p>
        <div class="fields three">
          <FigureField
            v-model="work.coils[i]!.loaded_l"
            label="Cleaner loaded"
            quantity="L"
            :at="c.name"
            :from="0"
            :to="200"
          />
          <FigureField
            v-model="work.coils[i]!.topped_up_l"
            label="Topped up"
            quantity="L"
            :at="c.name"
            :from="0"
            :to="200"
          />
          <FigureField
            v-model="work.coils[i]!.returned_l"
            label="Returned"
            quantity="L"
            :at="c.name"
            :from="0"
            :to="200"
          />
        </div>
        <p v-if="c.loaded_l !== null" class="soft">
          Used {{ figure('L', Math.max(0, c.loaded_l + (c.topped_up_l ?? 0) - (c.returned_l ?? 0))) }} of
          {{ figure('L', c.planned_l ?? undefined) }} planned. Unused concentrate goes back to its own
          container.
        </p>
      </template>
      <label v-if="slabs(i) && c.method" class="field"
        ><span class="label">Coil in two slabs: separate them? Needs consent and extra time.</span
        ><input
          v-model="work.coils[i]!.consent"
          class="plain-input"
          maxlength="300"
          placeholder="for example: not separated; or separated, agreed with the site, 40 min more"
      /></label>
    </section>
  </template>
</template>

<style scoped>
section {
  border-top: 1px solid var(--hairline);
  padding-top: 8px;
}
h4 {
  margin: 0 0 6px;
  font-size: 16px;
}
h5 {
  margin: 10px 0 6px;
  font-size: 15px;
}
.three {
  grid-template-columns: repeat(3, 1fr);
  gap: 0 10px;
}
</style>
