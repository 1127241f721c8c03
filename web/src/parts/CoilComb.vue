<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../api/client'
import { gradeNames, percent } from '../words'

/**
 * The comb: fins seen from the side, air coming from the left. The gaps fill from the front with the face load
 * and from the depth with the core load; a core nobody has seen is hatched. The numbers are the grades of face
 * and core.
 */
const props = withDefaults(defineProps<{ state: Schemas['SoilState']; scale?: number }>(), { scale: 1 })

const width = 46
const gaps = [2, 7, 12, 17]
const face = computed(() => width * (props.state.face_share ?? 0) * 0.5)
const core = computed(() => width * (props.state.core_share ?? 0) * 0.5)
const words = computed(() => {
  const s = props.state
  if (!s.known) return 'Soil not known: nobody has looked yet.'
  const f = s.face_grade ?? 0
  const c = s.core_grade ?? 0
  return `Expected today: face ${f} ${gradeNames[f]}, ${percent(s.face_share ?? 0)} blocked; core ${c} ${gradeNames[c]}, ${percent(
    s.core_share ?? 0,
  )}${s.core_seen ? '' : ', not seen'}; together ${percent(s.blocked_share ?? 0)}.`
})
</script>

<template>
  <span class="comb" :title="words">
    <svg
      :width="(width + 2) * scale"
      :height="22 * scale"
      :viewBox="`0 0 ${width + 2} 22`"
      role="img"
      :aria-label="words"
    >
      <template v-if="state.known">
        <g v-for="y in gaps" :key="y">
          <rect
            x="1"
            :y="y - 0.5"
            :width="face"
            height="4"
            :fill="`var(--silt-${Math.max(2, state.face_grade ?? 0)})`"
          />
          <rect
            :x="1 + width - core"
            :y="y - 0.5"
            :width="core"
            height="4"
            :fill="`var(--silt-${Math.max(3, state.core_grade ?? 0)})`"
          />
          <path
            v-if="!state.core_seen && core > 3"
            :d="hatch(1 + width - core, core, y - 0.5)"
            stroke="var(--on-silt)"
            stroke-width="1.1"
          />
        </g>
      </template>
      <rect
        v-for="y in [0, 5, 10, 15, 20]"
        :key="y"
        x="1"
        :y="y"
        :width="width"
        height="1.3"
        fill="var(--fin)"
      />
      <text v-if="!state.known" :x="width / 2 + 1" y="16" text-anchor="middle" class="ask">?</text>
    </svg>
    <span v-if="state.known" class="numbers" :style="{ fontSize: `${scale}em` }" aria-hidden="true"
      >{{ state.face_grade }}<span class="bar">|</span>{{ state.core_grade }}</span
    >
    <span v-else class="numbers soft" aria-hidden="true">no look yet</span>
  </span>
</template>

<script lang="ts">
/** Slanted strokes over a core that was only estimated. */
function hatch(x: number, w: number, y: number): string {
  const parts: string[] = []
  for (let at = x + 2; at < x + w; at += 4) parts.push(`M${at - 1} ${y + 4} L${at + 1} ${y}`)
  return parts.join(' ')
}
</script>

<style scoped>
.comb {
  display: inline-flex;
  align-items: center;
  gap: 7px;
  white-space: nowrap;
}
.numbers {
  font-weight: 650;
}
.numbers.soft {
  font-weight: 400;
}
.bar {
  color: var(--ink-soft);
  font-weight: 400;
  padding: 0 2px;
}
.ask {
  font: 700 15px var(--face);
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
}
.comb {
  line-height: 1;
  vertical-align: middle;
}
svg {
  flex: none;
  display: block;
}
</style>
