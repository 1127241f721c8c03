<script setup lang="ts">
import { computed } from 'vue'

/** How a light task is done: a drawing of our own and three short lines. */
const props = defineProps<{ kind: string }>()
const steps: Record<string, string[]> = {
  filter: [
    'Take the filter out by its clips.',
    'Wash it with lukewarm water, from the clean side.',
    'Let it dry fully; put it back the same way round.',
  ],
  grille: [
    'Gloves on: the edges are sharp.',
    'Wipe the slots along their length with a damp cloth.',
    'Nothing may stand in front of it.',
  ],
  tablet: [
    'Look into the pan: no old tablet whole.',
    'Put one new tablet in, away from the drain.',
    'Wash your hands.',
  ],
  drain: [
    'Pour a cup of water into the pan.',
    'See it run off within a minute.',
    'If it stands, report it below.',
  ],
  pump: ['Pour water until the pump starts.', 'Hear it run and stop.', 'If it does not, report it below.'],
  inspect: [
    'Look at grille, filter and floor below.',
    'Listen: no rattle, no hiss.',
    'Report below what is new.',
  ],
}
const lines = computed(() => steps[props.kind] ?? steps['inspect']!)
</script>

<template>
  <figure>
    <svg viewBox="0 0 200 92" role="img" :aria-label="lines.join(' ')">
      <g fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">
        <template v-if="kind === 'filter'">
          <rect x="14" y="20" width="60" height="52" />
          <path d="M14 33h60M14 46h60M14 59h60M29 20v52M44 20v52M59 20v52" stroke-width="1" />
          <path d="M88 46h30m-8-7 8 7-8 7" />
          <path d="M140 18c10 14 16 21 16 29a16 16 0 0 1-32 0c0-8 6-15 16-29z" />
          <path d="M170 74h22M176 66l5 8 5-8" />
        </template>
        <template v-else-if="kind === 'grille'">
          <rect x="20" y="14" width="160" height="64" />
          <path d="M32 26h136M32 38h136M32 50h136M32 62h136" />
          <rect x="60" y="30" width="34" height="20" rx="6" fill="var(--paper)" />
          <path d="M100 40h36m-8-7 8 7-8 7" />
        </template>
        <template v-else-if="kind === 'tablet'">
          <path d="M20 44v24h160V44" />
          <path d="M20 54h160" stroke-dasharray="6 5" />
          <ellipse cx="70" cy="24" rx="18" ry="9" />
          <path d="M70 38v14m-6-6 6 6 6-6" />
          <path d="M150 68v16" />
        </template>
        <template v-else-if="kind === 'drain' || kind === 'pump'">
          <path d="M20 40v22h120V40M120 62v22" />
          <path d="M52 14l10 20h20l10-20z" />
          <path d="M72 36v14" stroke-dasharray="4 4" />
          <circle v-if="kind === 'pump'" cx="164" cy="52" r="14" />
          <path v-if="kind === 'pump'" d="M140 52h10M164 38V22h20" />
        </template>
        <template v-else>
          <circle cx="86" cy="44" r="26" />
          <path d="M105 63l24 22M74 44h24M86 32v24" />
        </template>
      </g>
    </svg>
    <figcaption>
      <ol>
        <li v-for="l in lines" :key="l">{{ l }}</li>
      </ol>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0 0 10px;
}
svg {
  width: 200px;
  max-width: 100%;
  color: var(--ink);
}
ol {
  margin: 4px 0 0;
  padding-left: 22px;
}
</style>
