<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { unitOf } from '../../units'
import { gradeNames, gradeOf } from '../../words'

/** A plain map of the sites by their coordinates: no tiles from elsewhere, north up, with a scale. */
const props = defineProps<{ sites: Schemas['SiteLine'][] }>()

const width = 1180
const height = 520
const margin = 70
const placed = computed(() => props.sites.filter((s) => s.lat !== undefined && s.lon !== undefined))
const missing = computed(() => props.sites.length - placed.value.length)

/** Equirectangular about the middle latitude: right enough over a portfolio's few kilometres, and plain. */
const frame = computed(() => {
  const lats = placed.value.map((s) => s.lat ?? 0)
  const lons = placed.value.map((s) => s.lon ?? 0)
  const lat0 = (Math.min(...lats) + Math.max(...lats)) / 2
  const lon0 = (Math.min(...lons) + Math.max(...lons)) / 2
  const squeeze = Math.cos((lat0 * Math.PI) / 180)
  const spanX = Math.max((Math.max(...lons) - Math.min(...lons)) * squeeze, 0.002)
  const spanY = Math.max(Math.max(...lats) - Math.min(...lats), 0.002)
  const scale = Math.min((width - 4 * margin) / spanX, (height - 2 * margin) / spanY)
  return { lat0, lon0, squeeze, scale }
})
const at = (lat: number, lon: number) => ({
  x: width / 2 + (lon - frame.value.lon0) * frame.value.squeeze * frame.value.scale,
  y: height / 2 - (lat - frame.value.lat0) * frame.value.scale,
})
const steps = [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10]
const step = computed(() => steps.find((d) => d * frame.value.scale > 80) ?? 20)
const lines = computed(() => {
  const f = frame.value
  const around = (middle: number, half: number, d: number) => {
    const out: number[] = []
    for (let v = Math.ceil((middle - half) / d) * d; v <= middle + half; v += d) out.push(v)
    return out
  }
  return {
    lats: around(f.lat0, height / 2 / f.scale, step.value),
    lons: around(f.lon0, width / 2 / f.scale / f.squeeze, step.value),
  }
})
const metresPerDegree = 111_195
const bar = computed(() => {
  const perPixel = metresPerDegree / frame.value.scale
  const unit = unitOf('m') === 'ft' ? { name: 'mi', metres: 1609.344 } : { name: 'km', metres: 1000 }
  const length =
    [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].find((k) => (k * unit.metres) / perPixel > 90) ?? 200
  return { text: `${length} ${unit.name}`, pixels: (length * unit.metres) / perPixel }
})
interface Spot {
  site: Schemas['SiteLine']
  x: number
  y: number
  r: number
  anchor: 'start' | 'end' | 'middle'
  tx: number
  ty: number
}
/** Each name goes where it covers neither a circle nor an earlier name: beside it, below or above. */
const spots = computed<Spot[]>(() => {
  const circles = placed.value.map((s) => ({
    ...at(s.lat ?? 0, s.lon ?? 0),
    r: 8 + Math.sqrt(s.units) * 2.2,
    site: s,
  }))
  const taken: [number, number, number, number][] = circles.map((c) => [
    c.x - c.r,
    c.y - c.r,
    c.x + c.r,
    c.y + c.r,
  ])
  return circles.map((c) => {
    const w = Math.max(c.site.name.length * 8.2, 110)
    const tries: { anchor: Spot['anchor']; tx: number; ty: number; left: number }[] = [
      ...[0, 16, -16].flatMap((dy) => [
        { anchor: 'start' as const, tx: c.x + c.r + 6, ty: c.y + dy, left: c.x + c.r + 6 },
        { anchor: 'end' as const, tx: c.x - c.r - 6, ty: c.y + dy, left: c.x - c.r - 6 - w },
      ]),
      { anchor: 'middle', tx: c.x, ty: c.y + c.r + 16, left: c.x - w / 2 },
      { anchor: 'middle', tx: c.x, ty: c.y - c.r - 24, left: c.x - w / 2 },
    ]
    const box = (t: (typeof tries)[number]): [number, number, number, number] => [
      t.left,
      t.ty - 13,
      t.left + w,
      t.ty + 20,
    ]
    const overlap = (t: (typeof tries)[number]) => {
      const [l, u, r, d] = box(t)
      return taken.reduce(
        (sum, k) =>
          sum +
          Math.max(0, Math.min(r, k[2]) - Math.max(l, k[0])) *
            Math.max(0, Math.min(d, k[3]) - Math.max(u, k[1])),
        0,
      )
    }
    const best = tries.reduce((a, b) => (overlap(b) < overlap(a) ? b : a))
    taken.push(box(best))
    return { ...c, ...best }
  })
})
const digits = computed(() => Math.max(0, Math.ceil(-Math.log10(step.value))))
</script>

<template>
  <p v-if="!placed.length" class="notice">
    No site has coordinates yet: open a site and fill in latitude and longitude.
  </p>
  <template v-else>
    <svg
      class="map"
      :viewBox="`0 0 ${width} ${height}`"
      role="group"
      aria-label="Sites by their coordinates, north up"
    >
      <g class="grid">
        <template v-for="v in lines.lats" :key="`lat ${v}`">
          <line x1="0" :x2="width" :y1="at(v, frame.lon0).y" :y2="at(v, frame.lon0).y" />
          <text x="6" :y="at(v, frame.lon0).y - 4">{{ v.toFixed(digits) }}°</text>
        </template>
        <template v-for="v in lines.lons" :key="`lon ${v}`">
          <line :x1="at(frame.lat0, v).x" :x2="at(frame.lat0, v).x" y1="0" :y2="height" />
          <text :x="at(frame.lat0, v).x + 4" :y="height - 6">{{ v.toFixed(digits) }}°</text>
        </template>
      </g>
      <RouterLink
        v-for="p in spots"
        :key="p.site.id"
        v-slot="{ href, navigate }"
        :to="`/sites/${p.site.id}`"
        custom
      >
        <a :href="href" @click="navigate">
          <circle
            :cx="p.x"
            :cy="p.y"
            :r="p.r"
            :fill="
              p.site.worst_share === undefined ? 'var(--sheet)' : `var(--silt-${gradeOf(p.site.worst_share)})`
            "
          />
          <text
            class="grade"
            :class="{ light: p.site.worst_share !== undefined && gradeOf(p.site.worst_share) >= 3 }"
            :x="p.x"
            :y="p.y + 5"
            text-anchor="middle"
          >
            {{ p.site.worst_share === undefined ? '?' : gradeOf(p.site.worst_share) }}
          </text>
          <text class="name" :x="p.tx" :y="p.ty" :text-anchor="p.anchor">{{ p.site.name }}</text>
          <text class="detail" :x="p.tx" :y="p.ty + 16" :text-anchor="p.anchor">
            {{ p.site.units }} {{ p.site.units === 1 ? 'unit' : 'units'
            }}{{ p.site.due ? `, ${p.site.due} due` : '' }}
          </text>
        </a>
      </RouterLink>
      <g class="scale">
        <line :x1="width - 30 - bar.pixels" :x2="width - 30" :y1="height - 28" :y2="height - 28" />
        <text :x="width - 30" :y="height - 36" text-anchor="end">{{ bar.text }}</text>
      </g>
    </svg>
    <p class="soft">
      The number is the grade of the worst coil ({{ gradeNames.map((g, i) => `${i} ${g}`).join(', ') }}); the
      size follows the number of units. {{ missing ? `${missing} without coordinates.` : '' }}
    </p>
  </template>
</template>

<style scoped>
.map {
  width: 100%;
  background: var(--sheet);
  border: 1px solid var(--hairline);
}
.grid line {
  stroke: var(--hairline);
}
.grid text,
.detail {
  font-size: 12.5px;
  fill: var(--ink-soft);
}
circle {
  stroke: var(--ink);
  stroke-width: 1.2;
}
.name {
  font-weight: 600;
  font-size: 15px;
  fill: var(--ink);
}
.grade {
  font-weight: 700;
  font-size: 15px;
  fill: var(--on-pale);
}
.grade.light {
  fill: var(--on-silt);
}
.scale line {
  stroke: var(--ink);
  stroke-width: 3;
}
.scale text {
  fill: var(--ink);
  font-size: 13px;
}
</style>
