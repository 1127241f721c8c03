<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { count } from '../../words'

/** Coils of the same class and role: how fast each soils against what class and factors say. */
const props = defineProps<{ neighbours: Schemas['NeighbourCoil'][]; times: number; tag: string }>()
const most = computed(() => Math.max(2, props.times, ...props.neighbours.map((n) => n.times)))
const bar = (v: number) => `${(100 * v) / most.value}%`
const rows = computed(() => [
  {
    key: 'self',
    tag: props.tag,
    to: '',
    times: props.times,
    note: 'this one',
    every: undefined as number | undefined,
  },
  ...props.neighbours.map((n) => ({
    key: n.unit_id,
    tag: n.tag,
    to: `/units/${n.unit_id}`,
    times: n.times,
    note: n.same_site ? count(n.findings, 'finding') : `${n.site}, ${count(n.findings, 'finding')}`,
    every: n.every_days,
  })),
])
</script>

<template>
  <section aria-label="Peers compared">
    <h2>Peers</h2>
    <p class="soft">
      How fast each soils compared with its class and factors; the line marks the same speed.
    </p>
    <ul>
      <li v-for="r in rows" :key="r.key">
        <RouterLink v-if="r.to" :to="r.to">{{ r.tag }}</RouterLink><strong v-else>{{ r.tag }}</strong>
        <span class="track" aria-hidden="true"
          ><span class="bar" :class="{ self: !r.to }" :style="{ width: bar(r.times) }"></span
          ><span class="once" :style="{ left: bar(1) }"></span
        ></span>
        <span class="number">×{{ r.times.toFixed(2) }}</span>
        <span class="soft">{{ r.note }}{{ r.every ? `, deep ${r.every} d` : '' }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h2 {
  margin: 20px 0 2px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 84px 110px 48px 1fr;
  gap: 8px;
  align-items: center;
  line-height: 26px;
}
.track {
  position: relative;
  height: 10px;
}
.bar {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--silt-2);
}
.bar.self {
  background: var(--petrol);
}
.once {
  position: absolute;
  top: -3px;
  bottom: -3px;
  border-left: 1.5px solid var(--ink);
}
</style>
