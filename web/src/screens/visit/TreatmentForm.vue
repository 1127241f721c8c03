<script setup lang="ts">
import { ElButton, ElCheckbox, ElCheckboxGroup, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { amountWords, directionWords, endPointWords } from '../../words'
import type { CoilDraft, TreatmentDraft } from './draft'

/** What was done to a coil: method, direction, cleaner and mix, the sides it reached, and the end-points seen. */
const props = defineProps<{
  coil: CoilDraft
  number: number
  catalogue: Schemas['Catalogue']
  why: (rest: string) => string
}>()
defineEmits<{ remove: [] }>()
const model = defineModel<TreatmentDraft>({ required: true })

const method = computed(() => props.catalogue.methods.find((m) => m.id === model.value.method))
const cleaner = computed(() => props.catalogue.cleaners.find((c) => c.id === model.value.cleaner))
const reached = computed(() => props.coil.sides.filter((s) => s.reached))

function chooseMethod(id: string) {
  model.value.method = id
  const m = props.catalogue.methods.find((x) => x.id === id)
  if (m && !m.wet) Object.assign(model.value, { cleaner: '', water_parts: null, amount: null })
}
function chooseCleaner(id: string | undefined) {
  model.value.cleaner = id ?? ''
  if (props.catalogue.cleaners.find((c) => c.id === id)?.form !== 'concentrate')
    model.value.water_parts = null
}
function onSide(id: string, on: boolean) {
  model.value.not_on = on ? model.value.not_on.filter((x) => x !== id) : [...model.value.not_on, id]
}
</script>

<template>
  <section class="treatment" :aria-label="`Treatment ${number}`">
    <div class="head">
      <h3>Work done{{ number > 1 || coil.treatments.length > 1 ? ` ${number}` : '' }}</h3>
      <ElButton link @click="$emit('remove')">{{
        coil.treatments.length > 1 ? 'Remove' : 'Inspection only'
      }}</ElButton>
    </div>
    <div class="fields">
      <label class="field"
        ><span class="label">Clean</span>
        <ElSelect v-model="model.work" size="large" aria-label="Kind of clean">
          <ElOption v-if="coil.has_light" value="light" label="light: resets the light clock" />
          <ElOption
            value="deep"
            :label="coil.has_light ? 'deep: resets both clocks' : 'deep: resets the clock'"
          />
        </ElSelect>
      </label>
      <label class="field"
        ><span class="label">Method</span>
        <ElSelect
          :model-value="model.method"
          size="large"
          placeholder="choose"
          aria-label="Method"
          @update:model-value="(v: string) => chooseMethod(v)"
        >
          <ElOption v-for="m in catalogue.methods" :key="m.id" :value="m.id" :label="m.name" />
        </ElSelect>
        <span v-if="why('/method_id')" class="field-error" role="alert">{{ why('/method_id') }}</span>
      </label>
      <label class="field"
        ><span class="label">Direction</span>
        <ElSelect v-model="model.direction" size="large" placeholder="choose" aria-label="Direction">
          <ElOption v-for="(w, k) in directionWords" :key="k" :value="k" :label="w" />
        </ElSelect>
        <span v-if="method?.driven && model.direction === 'with_airflow'" class="field-error"
          >Driven with the airflow, some of the loosened soil is packed into the core.</span
        >
      </label>
      <template v-if="method?.wet">
        <label class="field"
          ><span class="label">Cleaner</span>
          <ElSelect
            :model-value="model.cleaner"
            size="large"
            clearable
            placeholder="none"
            aria-label="Cleaner"
            @update:model-value="(v?: string) => chooseCleaner(v)"
          >
            <ElOption v-for="c in catalogue.cleaners" :key="c.id" :value="c.id" :label="c.name" />
          </ElSelect>
          <span v-if="cleaner" class="soft">{{ cleaner.caution }}</span>
          <span v-if="why('/cleaner_id')" class="field-error" role="alert">{{ why('/cleaner_id') }}</span>
        </label>
        <label v-if="cleaner?.form === 'concentrate'" class="field"
          ><span class="label">Parts of water to one of cleaner</span>
          <ElInputNumber
            v-model="model.water_parts"
            size="large"
            :min="0"
            :max="1000"
            :controls="false"
            aria-label="Parts of water"
          />
          <span v-if="why('/water_parts')" class="field-error" role="alert">{{ why('/water_parts') }}</span>
        </label>
        <div v-if="cleaner" class="field">
          <span class="label">Cleaner drawn, before mixing</span>
          <div class="amount">
            <ElInputNumber
              v-model="model.amount"
              size="large"
              :min="0"
              :controls="false"
              aria-label="Amount of cleaner"
            />
            <ElSelect v-model="model.unit" size="large" aria-label="Unit of the amount">
              <ElOption v-for="(w, k) in amountWords" :key="k" :value="k" :label="w" />
            </ElSelect>
          </div>
          <span v-if="why('/amount/value') || why('/amount')" class="field-error" role="alert"
            >{{ why('/amount/value') }}{{ why('/amount') }}</span
          >
        </div>
      </template>
    </div>
    <div v-if="coil.sides.length > 1 && reached.length" class="field">
      <span class="label">Done to</span>
      <ElCheckbox
        v-for="s in reached"
        :key="s.surface_id"
        size="large"
        :model-value="!model.not_on.includes(s.surface_id)"
        @update:model-value="(v) => onSide(s.surface_id, Boolean(v))"
        >{{ s.name }}</ElCheckbox
      >
      <span v-if="why('/surface_ids')" class="field-error" role="alert">{{ why('/surface_ids') }}</span>
    </div>
    <div class="field">
      <span class="label">End-points seen</span>
      <ElCheckboxGroup v-model="model.end_points" class="ends">
        <ElCheckbox v-for="(w, k) in endPointWords" :key="k" :value="k" size="large">{{ w }}</ElCheckbox>
      </ElCheckboxGroup>
    </div>
  </section>
</template>

<style scoped>
.treatment {
  border-top: 1px solid var(--hairline);
  padding-top: 10px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin-bottom: 6px;
}
.amount {
  display: grid;
  grid-template-columns: 1fr 120px;
  gap: 8px;
}
.ends {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
}
</style>
