<script setup lang="ts">
import { computed } from 'vue'

import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { jobsOf, type Work } from './ledVisit'

/** The record of how the unit was made dead: each step of it asks for its own part. */
defineProps<{ step: string; proof: string }>()
const work = defineModel<Work>({ required: true })
const volts = computed(() => [
  { key: 'l1_l2_v' as const, pair: 'L1 to L2' },
  { key: 'l1_ground_v' as const, pair: 'L1 to ground' },
  { key: 'l2_ground_v' as const, pair: 'L2 to ground' },
])
const live = computed(() => volts.value.some((v) => (work.value.isolation[v.key] ?? 0) > 0.5))
/** What a meter shows of nothing, on every pair. */
const dead = () => Object.assign(work.value.isolation, { l1_l2_v: 0, l1_ground_v: 0, l2_ground_v: 0 })
/** Where nothing is opened, one step isolates and secures. */
const secures = computed(() => !jobsOf(work.value).includes('deep'))
const pulled = computed({
  get: () => work.value.isolation.means === 'plug' && work.value.isolation.secured === 'plug_in_hand',
  set: (yes) => {
    Object.assign(
      work.value.isolation,
      yes ? { means: 'plug', secured: 'plug_in_hand', point: 'its plug' } : { means: '', secured: '' },
    )
  },
})
const secured = [
  { value: 'locked' as const, label: 'Locked' },
  { value: 'tagged' as const, label: 'Tagged' },
  { value: 'locked_and_tagged' as const, label: 'Both' },
]
</script>

<template>
  <TapChoice
    v-if="step === 'isolate' && proof === 'plug'"
    v-model="pulled"
    label="The plug"
    :options="[
      { value: true, label: 'Pulled, in my hand or in sight' },
      { value: false, label: 'Not pulled' },
    ]"
  />
  <template v-else-if="step === 'isolate'">
    <label class="field"
      ><span class="label">Which point</span
      ><input
        v-model="work.isolation.point"
        class="plain-input"
        maxlength="200"
        placeholder="breaker 4, landing"
        name="point"
    /></label>
    <TapChoice
      v-model="work.isolation.means"
      label="By what means"
      :options="[
        { value: 'breaker', label: 'Breaker' },
        { value: 'disconnect', label: 'Disconnect' },
        { value: 'plug', label: 'Plug' },
      ]"
    />
    <TapChoice v-if="secures" v-model="work.isolation.secured" label="Secured" :options="secured" />
  </template>
  <TapChoice
    v-else-if="step === 'lock_tag'"
    v-model="work.isolation.secured"
    label="Secured"
    :options="[...secured, { value: 'plug_in_hand' as const, label: 'Plug in the hand' }]"
  />
  <TapChoice
    v-else-if="step === 'discharge'"
    v-model="work.isolation.discharged"
    label="Stored charge"
    :options="[
      { value: true, label: 'Discharged' },
      { value: false, label: 'Not discharged' },
    ]"
  />
  <p v-else-if="proof === 'plug'" class="soft">
    {{
      pulled
        ? 'The plug is in the hand: that proves it here.'
        : 'Pull the plug first, in the step before; or skip this step and say why.'
    }}
  </p>
  <p v-else-if="proof === 'heard'" class="soft">
    Nothing electrical is opened. If anything is, prove it with the meter.
  </p>
  <template v-else>
    <button
      v-if="volts.every((v) => work.isolation[v.key] === null)"
      type="button"
      class="plain-button"
      @click="dead"
    >
      0 V on all three pairs
    </button>
    <div class="fields">
      <FigureField
        v-for="v in volts"
        :key="v.key"
        v-model="work.isolation[v.key]"
        :label="v.pair"
        unit="V"
        :from="0"
        :to="1000"
      />
    </div>
    <p v-if="live" class="notice danger" role="alert">
      <strong>It is live. Stop, and do not open it.</strong>
    </p>
    <TapChoice
      v-model="work.isolation.meter_tried"
      label="Meter tried on a live source, before and after"
      :options="[
        { value: true, label: 'Yes, both times' },
        { value: false, label: 'No' },
      ]"
    />
  </template>
</template>
