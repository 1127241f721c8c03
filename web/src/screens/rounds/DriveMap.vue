<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { duration, longDay } from '../../words'

/** The drive of a round: sites by their coordinates, the way from stop to stop, without outside maps. */
const props = defineProps<{ plan: Schemas['Plan']; round: Schemas['PlannedRound'] }>()

const width = 400
const height = 260
const known = computed(() => props.plan.places.filter((p) => p.lat !== undefined && p.lon !== undefined))
const box = computed(() => {
  const lat = known.value.map((p) => p.lat!)
  const lon = known.value.map((p) => p.lon!)
  const [south, north, west, east] = [Math.min(...lat), Math.max(...lat), Math.min(...lon), Math.max(...lon)]
  const squeeze = Math.cos((((south + north) / 2) * Math.PI) / 180)
  const scale = Math.min(
    (width - 150) / Math.max((east - west) * squeeze, 1e-6),
    (height - 40) / Math.max(north - south, 1e-6),
  )
  return { north, west, squeeze, scale }
})
const at = (p: { lat?: number; lon?: number }) => ({
  x: 14 + ((p.lon ?? 0) - box.value.west) * box.value.squeeze * box.value.scale,
  y: 20 + (box.value.north - (p.lat ?? 0)) * box.value.scale,
})
const dots = computed(() =>
  known.value.map((p) => ({
    ...at(p),
    name: p.site,
    number: props.round.stops.findIndex((s) => s.site_id === p.site_id) + 1,
  })),
)
const base = computed(() => props.plan.crews.find((c) => c.id === props.round.crew_id))
const way = computed(() => {
  const stops = props.round.stops
    .map((s) => known.value.find((p) => p.site_id === s.site_id))
    .filter((p) => p !== undefined)
  const home = base.value?.lat === undefined ? [] : [base.value]
  return [...home, ...stops, ...home]
    .map((p) => at(p))
    .map((p) => `${p.x},${p.y}`)
    .join(' ')
})
</script>

<template>
  <figure v-if="known.length" class="map">
    <figcaption>
      The drive of {{ round.crew }} on {{ longDay(round.day) }}: {{ duration(round.driving_minutes) }}
    </figcaption>
    <svg
      :viewBox="`0 0 ${width} ${height}`"
      role="img"
      :aria-label="`The drive of ${round.crew}, stops in their order`"
    >
      <polyline :points="way" fill="none" stroke="var(--petrol)" stroke-width="2" stroke-linejoin="round" />
      <g v-for="d in dots" :key="d.name">
        <circle
          :cx="d.x"
          :cy="d.y"
          :r="d.number ? 9 : 4"
          :fill="d.number ? 'var(--petrol)' : 'var(--sheet)'"
          stroke="var(--petrol)"
        />
        <text v-if="d.number" :x="d.x" :y="d.y + 4" text-anchor="middle" class="n">{{ d.number }}</text>
        <text :x="d.x + 13" :y="d.y + 4" :class="{ quiet: !d.number }">{{ d.name }}</text>
      </g>
    </svg>
  </figure>
</template>

<style scoped>
.map {
  margin: 14px 0 0;
}
figcaption {
  font-size: 15px;
  font-weight: 650;
}
svg {
  width: 100%;
  height: auto;
}
text {
  font-size: 11.5px;
  fill: var(--ink);
}
.n {
  fill: var(--on-silt);
  font-weight: 650;
}
.quiet {
  fill: var(--ink-soft);
}
</style>
