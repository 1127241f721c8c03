<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'

import type { Schemas } from '../api/client'
import { asTime, gradeEdges, gradeNames, monthOf, percent, seenWords, shortDay } from '../words'

/**
 * The soil curve of one coil side: the share blocked, day by day. Core and face as two tones, what visits found
 * (filled bracket) and left (open bracket), the house limit, today, and the dates planned ahead.
 */
const props = defineProps<{
  side: Schemas['Side']
  limit: number
  today: string
  planned: { day: string; label: string }[]
  /** The worst side ahead as a range, days from today, and the cleans in it. */
  fan?: { day: number; p10: number; p50: number; p90: number }[]
  cleans?: number[]
  /** How hard the unit works in each month, mean 1; left out where it is even. */
  load?: number[]
}>()

const box = ref<HTMLElement>()
const width = ref(840)
const height = 290
const pad = { left: 76, right: 10, top: 22, bottom: 24 }
let watching: ResizeObserver | undefined
onMounted(() => {
  watching = new ResizeObserver(([e]) => {
    if (e) width.value = Math.max(320, e.contentRect.width)
  })
  if (box.value) watching.observe(box.value)
})
onBeforeUnmount(() => watching?.disconnect())

const DAY = 86_400_000
const curve = computed(() => {
  const oldest = asTime(props.today) - 1100 * DAY
  return props.side.curve.filter((p) => asTime(p.day) >= oldest)
})
const span = computed(() => {
  const now = asTime(props.today)
  const first = curve.value[0] ? asTime(curve.value[0].day) : now - 180 * DAY
  const ahead = props.planned.map((p) => asTime(p.day)).filter((t) => t < now + 400 * DAY)
  const last = props.fan?.at(-1)
  return {
    from: Math.max(first, now - 1100 * DAY),
    to: Math.max(now + 60 * DAY, ...ahead, last ? now + last.day * DAY : 0) + 14 * DAY,
  }
})
const ahead = (days: number) => x(asTime(props.today) + days * DAY).toFixed(1)
const fanArea = computed(() => {
  const f = props.fan ?? []
  if (f.length < 2) return ''
  const up = f.map((p) => `${ahead(p.day)},${y(p.p90).toFixed(1)}`)
  const down = [...f].reverse().map((p) => `${ahead(p.day)},${y(p.p10).toFixed(1)}`)
  return `M${up.join('L')}L${down.join('L')}Z`
})
const fanLine = computed(() =>
  (props.fan ?? []).map((p) => `${ahead(p.day)},${y(p.p50).toFixed(1)}`).join(' '),
)
const x = (t: number) =>
  pad.left +
  ((t - span.value.from) / (span.value.to - span.value.from)) * (width.value - pad.left - pad.right)
const nearEnd = (day: string) => x(asTime(day)) > width.value - pad.right - 40
const y = (share: number) => pad.top + (1 - share) * (height - pad.top - pad.bottom)

/** The area between two shares of each point; a visit's steps stand upright on its day. */
const area = (low: (p: Schemas['CurvePoint']) => number, high: (p: Schemas['CurvePoint']) => number) => {
  const points = curve.value
  if (points.length < 2) return ''
  const up = points.map((p) => `${x(asTime(p.day)).toFixed(1)},${y(high(p)).toFixed(1)}`)
  const down = [...points].reverse().map((p) => `${x(asTime(p.day)).toFixed(1)},${y(low(p)).toFixed(1)}`)
  return `M${up.join('L')}L${down.join('L')}Z`
}
const core = (p: Schemas['CurvePoint']) => p.core_share ?? 0
const coreArea = computed(() => area(() => 0, core))
const faceArea = computed(() => area(core, (p) => p.blocked_share))
const line = computed(() =>
  curve.value.map((p) => `${x(asTime(p.day)).toFixed(1)},${y(p.blocked_share).toFixed(1)}`).join(' '),
)

const brackets = computed(() =>
  props.side.observations
    .filter((o) => asTime(o.day) >= span.value.from)
    .map((o, i) => ({
      key: i,
      left: o.phase === 'as_left',
      x: x(asTime(o.day)) + (o.phase === 'as_left' ? 3 : -3),
      width: o.seen === 'face_look' ? 4 : 8,
      top: y(o.to_share),
      bottom: y(o.from_share),
      text: `${shortDay(o.day)}: ${o.phase === 'as_left' ? 'left' : 'found'} ${o.grade} ${gradeNames[o.grade]} by ${seenWords[o.seen]}`,
    })),
)
const months = computed(() => {
  const out: { t: number; label: string }[] = []
  const d = new Date(span.value.from)
  const total = (span.value.to - span.value.from) / DAY
  const step = total > 1000 ? 6 : total > 500 ? 3 : total > 200 ? 2 : 1
  const at = new Date(Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + 1, 1))
  for (; at.getTime() < span.value.to - 10 * DAY; at.setUTCMonth(at.getUTCMonth() + step))
    out.push({ t: at.getTime(), label: monthOf(at.getTime()) })
  return out
})
/** The months of the span with how hard the unit works in them, hanging from the top behind the curve. */
const season = computed(() => {
  const load = props.load
  if (!load) return []
  const most = Math.max(...load)
  const out: { t: number; x: number; width: number; height: number; text: string }[] = []
  const at = new Date(span.value.from)
  at.setUTCDate(1)
  at.setUTCHours(0, 0, 0, 0)
  while (at.getTime() < span.value.to) {
    const t = at.getTime()
    const weight = load[at.getUTCMonth()] ?? 0
    at.setUTCMonth(at.getUTCMonth() + 1)
    const from = x(Math.max(t, span.value.from))
    const to = x(Math.min(at.getTime(), span.value.to))
    out.push({
      t,
      x: from,
      width: Math.max(0, to - from - 1),
      height: ((height - pad.top - pad.bottom) * 0.3 * weight) / most,
      text: `${monthOf(t)}: load ${weight.toFixed(1)} × the year's mean`,
    })
  }
  return out
})
const words = computed(() => {
  const s = props.side.state
  if (!s.known) return `Soil curve of ${props.side.name}: nothing known yet.`
  return `Soil curve of ${props.side.name}: today about ${percent(s.blocked_share ?? 0)} blocked, of which core ${percent(
    s.core_share ?? 0,
  )}; ${props.side.observations.length} observations. The visits stand in the table below.`
})
</script>

<template>
  <div ref="box" class="curve">
    <svg v-if="curve.length" :width="width" :height="height" role="img" :aria-label="words">
      <g v-for="g in 6" :key="g">
        <rect
          :x="pad.left"
          :y="y(gradeEdges[g] ?? 1)"
          :width="width - pad.left - pad.right"
          :height="y(gradeEdges[g - 1] ?? 0) - y(gradeEdges[g] ?? 1)"
          :fill="`var(--silt-${g - 1})`"
          :opacity="g > 3 ? 0.3 : 0.4"
        />
        <text
          v-if="g > 1"
          :x="pad.left - 8"
          :y="(y(gradeEdges[g] ?? 1) + y(gradeEdges[g - 1] ?? 0)) / 2 + 4"
          text-anchor="end"
        >
          {{ g - 1 }} {{ gradeNames[g - 1] }}
        </text>
      </g>
      <text :x="pad.left - 8" :y="y(0) + 4" text-anchor="end">0 Bare</text>
      <g v-if="season.length" class="season">
        <rect
          v-for="b in season"
          :key="b.t"
          :x="b.x"
          :y="pad.top"
          :width="b.width"
          :height="b.height"
          fill="var(--petrol)"
          opacity="0.28"
        >
          <title>{{ b.text }}</title>
        </rect>
      </g>
      <g v-for="m in months" :key="m.t">
        <line :x1="x(m.t)" :x2="x(m.t)" :y1="y(0)" :y2="y(0) + 5" stroke="var(--ink-soft)" />
        <text :x="x(m.t)" :y="height - 5" text-anchor="middle">{{ m.label }}</text>
      </g>
      <path :d="coreArea" fill="var(--silt-4)" opacity="0.92" />
      <path :d="faceArea" fill="var(--silt-2)" />
      <polyline :points="line" fill="none" stroke="var(--ink)" stroke-width="1.2" />
      <path v-if="fanArea" :d="fanArea" fill="var(--petrol)" opacity="0.2" class="fan" />
      <polyline
        v-if="fanLine"
        :points="fanLine"
        fill="none"
        stroke="var(--petrol)"
        stroke-width="1.6"
        stroke-dasharray="5 3"
      />
      <line
        v-for="c in cleans ?? []"
        :key="c"
        :x1="ahead(c)"
        :x2="ahead(c)"
        :y1="y(0) - 9"
        :y2="y(0)"
        stroke="var(--petrol)"
        stroke-width="2"
        class="tick"
      />
      <line
        :x1="pad.left"
        :x2="width - pad.right"
        :y1="y(limit)"
        :y2="y(limit)"
        stroke="var(--danger)"
        stroke-width="1.5"
      />
      <g v-for="b in brackets" :key="b.key">
        <rect
          :x="b.x - b.width / 2"
          :y="b.top"
          :width="b.width"
          :height="b.bottom - b.top"
          :fill="b.left ? 'var(--sheet)' : 'var(--ink)'"
          stroke="var(--ink)"
          :class="b.left ? 'left' : 'found'"
        >
          <title>{{ b.text }}</title>
        </rect>
      </g>
      <line
        :x1="x(asTime(today))"
        :x2="x(asTime(today))"
        :y1="pad.top - 6"
        :y2="y(0)"
        stroke="var(--ink-soft)"
        stroke-dasharray="2 3"
      />
      <text :x="x(asTime(today))" :y="pad.top - 9" text-anchor="middle">today</text>
      <g v-for="(p, i) in planned" :key="p.label">
        <template v-if="asTime(p.day) >= asTime(today) && asTime(p.day) <= span.to">
          <line
            :x1="x(asTime(p.day))"
            :x2="x(asTime(p.day))"
            :y1="pad.top - 6"
            :y2="y(0)"
            stroke="var(--petrol)"
            stroke-width="1.5"
          />
          <text
            :x="x(asTime(p.day)) + (nearEnd(p.day) ? -4 : 4)"
            :y="pad.top + 10 + 16 * i"
            :text-anchor="nearEnd(p.day) ? 'end' : 'start'"
            class="plan"
          >
            {{ p.label }}
          </text>
        </template>
      </g>
    </svg>
    <p v-else class="notice">
      No curve yet: no dated clean is known and nobody has looked. The first opened-up finding sets the state.
    </p>
    <p v-if="curve.length" class="soft">
      Share of the free-flow area blocked. <span class="swatch face"></span> face
      <span class="swatch core"></span> core. <span class="swatch found"></span> found
      <span class="swatch left"></span> left, as tall as the grade, broad when seen with light.
      <span class="swatch rule"></span> house limit {{ percent(limit) }}.
      <template v-if="season.length"
        ><span class="swatch season"></span> from the top: how hard it works by month.
      </template>
      <template v-if="fan?.length"
        ><span class="swatch ahead"></span> ahead: eight times in ten within, ticks are cleans.</template
      >
    </p>
  </div>
</template>

<style scoped>
.curve text {
  font: 12.5px var(--face);
  fill: var(--ink-soft);
}
.curve .plan {
  fill: var(--petrol);
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 3px;
}
svg {
  display: block;
}
.swatch {
  display: inline-block;
  width: 12px;
  height: 10px;
  margin-left: 8px;
}
.swatch.face {
  background: var(--silt-2);
}
.swatch.core {
  background: var(--silt-4);
}
.swatch.ahead {
  background: color-mix(in srgb, var(--petrol) 25%, transparent);
}
.swatch.season {
  background: color-mix(in srgb, var(--petrol) 35%, transparent);
}
.swatch.found {
  width: 6px;
  height: 12px;
  background: var(--ink);
}
.swatch.rule {
  height: 0;
  border-top: 2px solid var(--danger);
  vertical-align: middle;
}
.swatch.left {
  width: 6px;
  height: 12px;
  border: 1px solid var(--ink);
}
.mark {
  border-bottom: 1px dotted var(--ink-soft);
  margin-left: 8px;
}
</style>
