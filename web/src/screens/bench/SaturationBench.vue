<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import FigureField from '../../parts/FigureField.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useSubmit } from '../../parts/useSubmit'
import { mayManageHouse } from '../../session'
import { figure } from '../../units'
import { useCore } from './useCore'

const props = defineProps<{ pack: Schemas['BenchPack'] }>()
const form = reactive({
  refrigerant: 'R-410A',
  kpa: 2379 as number | null,
  height: 0 as number | null,
  ambient: null as number | null,
})
const codes = computed(() => [...new Set([...props.pack.refrigerants, ...Object.keys(props.pack.tables)])])
const { result, failed } = useCore<Schemas['SaturationResult']>('saturation', () =>
  form.kpa === null
    ? null
    : {
        refrigerant: form.refrigerant,
        gauge_kpa: form.kpa,
        height_m: form.height ?? 0,
        ...(props.pack.tables[form.refrigerant] ? { table: props.pack.tables[form.refrigerant] } : {}),
      },
)
const glide = computed(() => (result.value ? result.value.dew_c - result.value.bubble_c : 0))
const { busy, refused, submit } = useSubmit()
const own = reactive({ code: '', csv: '' })
const taken = ref('')
async function take(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (file) own.csv = await file.text()
}
async function send() {
  await submit(async () => {
    const table = await ask(api.POST('/refrigerant-tables', { body: { code: own.code, csv: own.csv } }))
    taken.value = `${table.code}: ${table.points} rows, ${table.from_c} to ${table.to_c} °C. It is used from now on.`
  })
}
</script>

<template>
  <div class="bench-two">
    <div>
      <label class="field"
        ><span class="label">Refrigerant</span>
        <ElSelect v-model="form.refrigerant" aria-label="Refrigerant">
          <ElOption v-for="c in codes" :key="c" :value="c" :label="c" />
        </ElSelect>
      </label>
      <FigureField v-model="form.kpa" label="Pressure, gauge" quantity="kPa" />
      <FigureField v-model="form.height" label="Height above the sea" quantity="m" />
      <FigureField v-model="form.ambient" label="Ambient, if it is the high side" quantity="degC" />
    </div>
    <div>
      <p v-if="failed" class="notice danger" role="alert">{{ failed }}</p>
      <template v-else-if="result">
        <p class="bench-answer">{{ figure('degC', result.bubble_c) }} on the bubble line</p>
        <p v-if="glide > 0.2">
          {{ figure('degC', result.dew_c) }} on the dew line, for the low side: {{ glide.toFixed(1) }} K of
          glide.
        </p>
        <p v-if="form.ambient !== null">{{ (result.bubble_c - form.ambient).toFixed(1) }} K over ambient.</p>
        <p class="soft">{{ figure('kPa', result.absolute_kpa, 4) }} absolute. {{ result.source }}</p>
      </template>
      <form v-if="mayManageHouse()" novalidate @submit.prevent="send">
        <h2>Import a table</h2>
        <p class="soft">
          A CSV file with the columns celsius, bubble_kpa, dew_kpa (absolute) takes the place of the built-in
          equations, or adds a refrigerant.
        </p>
        <ProblemNote :problem="refused" />
        <label class="field"
          ><span class="label">Refrigerant of the table</span
          ><input v-model="own.code" class="plain-input" maxlength="20" placeholder="R-404A" />
          <FieldNote :problem="refused" at="/code" />
        </label>
        <label class="field"
          ><span class="label">File</span><input type="file" accept=".csv,text/csv" @change="take"
        /></label>
        <FieldNote :problem="refused" at="/csv" />
        <button type="submit" class="plain-button" :disabled="busy || !own.code || !own.csv">
          Import the table
        </button>
        <p v-if="taken" class="notice" role="status">{{ taken }}</p>
      </form>
    </div>
  </div>
</template>

<style scoped>
form {
  margin-top: 26px;
  border-top: 2px solid var(--ink);
  padding-top: 10px;
}
</style>
