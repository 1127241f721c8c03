<script setup lang="ts">
import { computed } from 'vue'

import FigureField from '../../parts/FigureField.vue'
import TapChoice from '../../parts/TapChoice.vue'
import type { Work } from './ledVisit'

/** The record of how the unit was made dead: each step of it asks for its own part. */
const props = defineProps<{ step: string; plugIn: boolean }>()
const work = defineModel<Work>({ required: true })
const volts = computed(() => [
  { key: 'l1_l2_v' as const, pair: 'L1 to L2' },
  { key: 'l1_ground_v' as const, pair: 'L1 to ground' },
  { key: 'l2_ground_v' as const, pair: 'L2 to ground' },
])
const live = computed(() => volts.value.some((v) => (work.value.isolation[v.key] ?? 0) > 0.5))
const unplugged = computed(
  () =>
    props.plugIn && work.value.isolation.means === 'plug' && work.value.isolation.secured === 'plug_in_hand',
)
</script>

<template>
  <template v-if="step === 'isolate'">
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
  </template>
  <TapChoice
    v-else-if="step === 'lock_tag'"
    v-model="work.isolation.secured"
    label="Secured"
    :options="[
      { value: 'locked', label: 'Locked' },
      { value: 'tagged', label: 'Tagged' },
      { value: 'locked_and_tagged', label: 'Both' },
      { value: 'plug_in_hand', label: 'Plug in the hand' },
    ]"
  />
  <TapChoice
    v-else-if="step === 'discharge'"
    v-model="work.isolation.discharged"
    label="Stored charge"
    :options="[
      { value: true, label: 'Let go' },
      { value: false, label: 'Not yet' },
    ]"
  />
  <template v-else>
    <p v-if="unplugged" class="soft">
      The plug is in the hand: that counts here. The meter may still be read.
    </p>
    <div class="fields">
      <FigureField v-for="v in volts" :key="v.key" v-model="work.isolation[v.key]" :label="v.pair" unit="V" />
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
