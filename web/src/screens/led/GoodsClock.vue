<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { compute } from '../../core'
import type { Schemas } from '../../api/client'
import { useClock } from './clock'
import type { Work } from './ledVisit'

/** How long a cooler may stand off, from its isolation on (FDA Food Code time control, from memory). */
const props = defineProps<{ work: Work }>()
const { now } = useClock()
const plan = ref<Schemas['StandOff'] | null>(null)
/** Time constant of a closed cooler's warming, in hours, and the room it stands in (assumption). */
const hours = 3
const room = 22

const off = computed(() => (props.work.isolation.at ? Date.parse(props.work.isolation.at) : null))
const on = computed(() => {
  const at = props.work.steps['restore_power']
  return at?.state === 'done' ? Date.parse(at.at) : null
})
const food = computed(
  () => props.work.readings.find((r) => r.kind === 'food_c' && r.phase === 'before')?.value ?? 4,
)
watch(
  food,
  async (c) => {
    plan.value = await compute<Schemas['StandOff']>('standoff', { goods_c: c, room_c: room, hours }).catch(
      () => null,
    )
  },
  { immediate: true },
)
const spell = (m: number) =>
  m >= 60 ? `${Math.floor(m / 60)} h ${Math.round(m % 60)} min` : `${Math.floor(m)} min`
const gone = computed(() => (off.value === null ? 0 : ((on.value ?? now.value) - off.value) / 60000))
</script>

<template>
  <p
    v-if="off !== null && plan"
    class="goods"
    :class="{ late: gone > plan.holds_m, bad: gone > plan.last_m }"
  >
    <strong>Off for {{ spell(gone) }}.{{ ' ' }}</strong>
    <template v-if="on === null">
      {{
        gone > plan.last_m
          ? 'Too long above 5 °C: goods out, and by the rules of food safety discard what was warm.'
          : gone > plan.holds_m
            ? `Goods are thought to be above 5 °C; power back before it was off for ${spell(plan.last_m)}.`
            : `Goods hold about ${spell(plan.holds_m)}; never above 5 °C for more than 4 h.`
      }}
    </template>
  </p>
</template>

<style scoped>
.goods {
  margin: 0;
  padding: 8px 14px;
  background: var(--petrol-tint);
}
.late {
  border-left: 4px solid var(--danger);
}
.bad {
  background: var(--danger-tint);
  color: var(--danger);
}
</style>
