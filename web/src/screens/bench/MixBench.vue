<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, reactive } from 'vue'

import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import { session } from '../../session'
import { figure } from '../../units'
import { useCore } from './useCore'

const props = defineProps<{ pack: Schemas['BenchPack'] }>()
const form = reactive({
  cleaner: '',
  setting: '',
  parts: 4 as number | null,
  by: 'mix_l' as 'mix_l' | 'cleaner_l' | 'water_l',
  volume: 5 as number | null,
})
const cleaner = computed(() => props.pack.cleaners.find((c) => c.code === form.cleaner))
const setting = computed(() => props.pack.sprayers.find((s) => s.id === form.setting))
const words = { mix_l: 'Mix wanted', cleaner_l: 'Cleaner there is', water_l: 'Water there is' }
function set() {
  if (setting.value) form.parts = setting.value.water_parts
}
const thinned = computed(() =>
  setting.value && cleaner.value && cleaner.value.form !== 'concentrate' ? cleaner.value : null,
)
const { result, failed } = useCore<Schemas['MixResult']>('mix', () =>
  form.parts === null || form.volume === null
    ? null
    : {
        water_parts: form.parts,
        [form.by]: form.volume,
        ...(setting.value?.tank_l ? { tank_l: setting.value.tank_l } : {}),
        ...(cleaner.value?.pack_l ? { pack_l: cleaner.value.pack_l } : {}),
        ...(cleaner.value?.pack_price ? { pack_price: cleaner.value.pack_price } : {}),
      },
)
const share = (v: number) => `${Number((100 * v).toPrecision(3))} %`
</script>

<template>
  <div class="bench-two">
    <div>
      <label class="field"
        ><span class="label">Cleaner</span>
        <ElSelect v-model="form.cleaner" clearable placeholder="any concentrate" aria-label="Cleaner">
          <ElOption
            v-for="c in pack.cleaners.filter((x) => x.form !== 'none')"
            :key="c.code"
            :value="c.code"
            :label="c.name"
          />
        </ElSelect>
      </label>
      <label class="field"
        ><span class="label">Sprayer’s setting</span>
        <ElSelect
          v-model="form.setting"
          clearable
          placeholder="mixed by hand"
          aria-label="Sprayer’s setting"
          @change="set"
        >
          <ElOption
            v-for="s in pack.sprayers"
            :key="s.id"
            :value="s.id"
            :label="`${s.sprayer}, ${s.name}: ${s.water_parts}:1`"
          />
        </ElSelect>
        <span class="soft">The same letter is another strength on another sprayer.</span>
      </label>
      <FigureField v-model="form.parts" label="Water to one of cleaner" unit="parts" />
      <p v-if="cleaner?.parts_to" class="soft">
        Its data: {{ cleaner.parts_from }}:1 to {{ cleaner.parts_to }}:1.
      </p>
      <label class="field"
        ><span class="label">Known volume</span>
        <ElSelect v-model="form.by" aria-label="Known volume">
          <ElOption v-for="(w, k) in words" :key="k" :value="k" :label="w" />
        </ElSelect>
      </label>
      <FigureField v-model="form.volume" :label="words[form.by]" quantity="L" />
    </div>
    <div>
      <p v-if="thinned" class="notice danger" role="alert">
        {{ thinned.name }} is used undiluted: a head that mixes would thin it. Ruled out.
      </p>
      <p v-else-if="failed" class="notice danger" role="alert">{{ failed }}</p>
      <template v-else-if="result">
        <p class="bench-answer">
          {{ figure('L', result.cleaner_l) }} cleaner + {{ figure('L', result.water_l) }} water
        </p>
        <p>
          = {{ figure('L', result.mix_l) }} of mix at {{ Number(result.water_parts.toPrecision(3)) }}:1;
          cleaner is {{ share(result.share) }} of it.
        </p>
        <table class="lines">
          <thead>
            <tr>
              <th></th>
              <th class="number">of mix</th>
              <th class="number">of water</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td>Cleaner per litre</td>
              <td class="number">{{ result.ml_per_l_of_mix.toFixed(0) }} mL</td>
              <td class="number">{{ result.ml_per_l_of_water.toFixed(0) }} mL</td>
            </tr>
            <tr>
              <td>Cleaner per US gallon</td>
              <td class="number">{{ result.fl_oz_per_gal_of_mix.toFixed(1) }} fl oz</td>
              <td class="number">{{ result.fl_oz_per_gal_of_water.toFixed(1) }} fl oz</td>
            </tr>
          </tbody>
        </table>
        <p class="soft">The two are often mixed up: per litre of mix is less than per litre of water.</p>
        <p v-if="result.fills">
          {{ result.fills }} fills of the tank, {{ figure('L', result.cleaner_l_per_fill) }} cleaner in a full
          one<template v-if="result.last_fill_l">; the last is {{ figure('L', result.last_fill_l) }}</template
          >.
        </p>
        <p v-if="result.packs">
          {{ Number(result.packs.toPrecision(3)) }} packs<template v-if="result.cost"
            >, {{ result.cost.toFixed(2) }} {{ session?.currency }}</template
          >.
        </p>
      </template>
    </div>
  </div>
</template>
