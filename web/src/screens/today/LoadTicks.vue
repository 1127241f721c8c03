<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import { putDown } from '../../offline/device'
import { owner } from '../../offline/owner'
import TickLine from '../../parts/TickLine.vue'

/** What goes on the van, ticked before leaving. The ticks stay on this phone: they are for the crew. */
const props = defineProps<{ round: Schemas['Round'] }>()
const place = `load:${owner()}:${props.round.id}`
const ticked = ref<string[]>(read())
function read(): string[] {
  try {
    const v = JSON.parse(localStorage.getItem(place) ?? '[]') as unknown
    return Array.isArray(v) ? v.filter((x): x is string => typeof x === 'string') : []
  } catch {
    return []
  }
}
const lines = computed(() => {
  const load = props.round.load
  const has = (kind: Schemas['LoadLine']['kind']) => load.some((l) => l.kind === kind)
  return [
    ...load.map((l) => l.text),
    ...(has('battery') ? [] : ['Batteries of lamp, vacuum and blower charged']),
    ...(has('water') ? ['Tank filled and seen to be tight'] : []),
    ...(has('cleaner') ? ['Cans and bottles counted, caps tight, upright'] : []),
  ]
})
const missing = computed(() => lines.value.filter((l) => !ticked.value.includes(l)).length)
const broken = ref('')
function tick(line: string) {
  ticked.value = ticked.value.includes(line)
    ? ticked.value.filter((x) => x !== line)
    : [...ticked.value, line]
  broken.value = putDown(place, ticked.value)
}
</script>

<template>
  <details class="load">
    <summary>Load the van: {{ missing ? `${missing} of ${lines.length} to tick` : 'all there' }}</summary>
    <p v-if="broken" class="notice danger" role="alert">{{ broken }}</p>
    <TickLine v-for="l in lines" :key="l" :text="l" :on="ticked.includes(l)" @tick="tick(l)" />
  </details>
</template>

<style scoped>
summary {
  color: var(--petrol);
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
</style>
