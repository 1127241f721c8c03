<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { reactive, ref, watch } from 'vue'

import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import GradePicker from '../../parts/GradePicker.vue'
import PlanList from '../../parts/PlanList.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { constructionWords, kindWords, settingWords } from '../../words'
import { useCore } from './useCore'

const props = defineProps<{ pack: Schemas['BenchPack'] }>()
const yes = [
  { value: true, label: 'Yes' },
  { value: false, label: 'No' },
]
const form = reactive({
  construction: 'tube_fin' as Schemas['CoilCard']['construction'],
  role: 'condenser',
  slabs: 1 as number | null,
  face_m2: null as number | null,
  capacity_kw: 10 as number | null,
  plug_in: false,
  movable: false,
  flammable: false,
  setting: 'outdoor' as Schemas['Setting'],
  near_food: false,
  occupied: false,
  wall_backed: false,
  water: true,
  low_c: 12 as number | null,
  kind: 'dust',
  work: 'deep' as Schemas['TaskKind'],
  crew: '',
})
// A plug-in unit can usually be carried out; others can not.
watch(
  () => form.plug_in,
  (plugIn) => (form.movable = plugIn),
)
const grade = ref<number | null>(3)
const { result, failed } = useCore<Schemas['MethodAdvice']>('advise', () => ({
  coil: {
    construction: form.construction,
    role: form.role,
    slabs: form.slabs ?? 1,
    plug_in: form.plug_in,
    flammable: form.flammable,
    movable: form.movable,
    ...(form.face_m2 ? { face_m2: form.face_m2 } : {}),
    ...(form.capacity_kw ? { capacity_kw: form.capacity_kw } : {}),
  },
  place: {
    setting: form.setting,
    near_food: form.near_food,
    occupied: form.occupied,
    wall_backed: form.wall_backed,
    water: form.water,
    drain: true,
    ...(form.low_c !== null ? { low_c: form.low_c } : {}),
  },
  found: { kind: form.kind, grade: grade.value ?? 2, through: true },
  work: form.work,
  rules: props.pack.practice,
  ...(form.crew ? { kit: props.pack.kits.find((k) => k.crew === form.crew)?.kit ?? [] } : {}),
  limit_share: props.pack.limit_share,
  cleaners: props.pack.cleaners,
  methods: props.pack.methods,
  kinds: props.pack.kinds,
  prices: props.pack.prices,
}))
</script>

<template>
  <div class="bench-two">
    <div>
      <h2>Coil, soil and place</h2>
      <div class="fields">
        <label class="field"
          ><span class="label">Construction</span>
          <ElSelect v-model="form.construction" aria-label="Construction">
            <ElOption v-for="(w, k) in constructionWords" :key="k" :value="k" :label="w" />
          </ElSelect>
        </label>
        <label v-if="pack.kits.length" class="field"
          ><span class="label">What is on the van</span>
          <ElSelect v-model="form.crew" aria-label="What is on the van">
            <ElOption value="" label="everything there is" />
            <ElOption v-for="k in pack.kits" :key="k.crew" :value="k.crew" :label="`the kit of ${k.crew}`" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Coil</span>
          <ElSelect v-model="form.role" aria-label="Coil">
            <ElOption value="condenser" label="condenser" />
            <ElOption value="evaporator" label="evaporator" />
            <ElOption value="outdoor" label="outdoor coil of a heat pump" />
            <ElOption value="back" label="back coil of a wall unit" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Soil</span>
          <ElSelect v-model="form.kind" aria-label="Soil">
            <ElOption v-for="k in pack.kinds" :key="k.code" :value="k.code" :label="k.name" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Place</span>
          <ElSelect v-model="form.setting" aria-label="Place">
            <ElOption v-for="(w, k) in settingWords" :key="k" :value="k" :label="w" />
          </ElSelect>
        </label>
        <FigureField v-model="form.face_m2" label="Face area" quantity="m2" />
        <FigureField v-model="form.capacity_kw" label="Nominal capacity" quantity="kW" />
        <FigureField v-model="form.slabs" label="Slabs" />
        <FigureField v-model="form.low_c" label="Coldest during the work" quantity="degC" />
      </div>
      <GradePicker v-model="grade" label="Found, light through" name="bench-grade" />
      <TapChoice
        v-model="form.work"
        label="Work"
        :options="[
          { value: 'deep', label: kindWords.deep },
          { value: 'light', label: kindWords.light },
        ]"
      />
      <div class="flags">
        <TapChoice v-model="form.plug_in" label="Plug-in refrigeration" :options="yes" />
        <TapChoice v-model="form.movable" label="Can be carried out" :options="yes" />
        <TapChoice v-model="form.flammable" label="Flammable refrigerant" :options="yes" />
        <TapChoice v-model="form.water" label="Running water" :options="yes" />
        <TapChoice v-model="form.near_food" label="Food or glasses near" :options="yes" />
        <TapChoice v-model="form.occupied" label="Room in use" :options="yes" />
        <TapChoice v-model="form.wall_backed" label="Backed on a wall" :options="yes" />
      </div>
    </div>
    <div>
      <h2>What to do</h2>
      <p v-if="failed" class="notice danger" role="alert">{{ failed }}</p>
      <PlanList v-if="result" :advice="result" :sprayers="pack.sprayers" :cleaners="pack.cleaners" />
    </div>
  </div>
</template>

<style scoped>
h2 {
  margin-bottom: 8px;
}
.fields {
  grid-template-columns: repeat(2, 1fr);
}
.flags {
  display: grid;
  grid-template-columns: repeat(2, 1fr);
  gap: 0 18px;
}
</style>
