<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import { putDown } from '../../offline/device'
import { owner } from '../../offline/owner'

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
    <label v-for="l in lines" :key="l" :class="{ on: ticked.includes(l) }">
      <input type="checkbox" class="visually-hidden" :checked="ticked.includes(l)" @change="tick(l)" />
      <span class="box" aria-hidden="true">{{ ticked.includes(l) ? '✓' : '' }}</span>{{ l }}
    </label>
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
label {
  position: relative;
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 46px;
  border-bottom: 1px solid var(--hairline);
  cursor: pointer;
}
.box {
  flex: none;
  width: 26px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  display: flex;
  align-items: center;
  justify-content: center;
  background: var(--sheet);
}
label.on .box {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
}
label:focus-within {
  outline: 2px solid var(--petrol);
}
</style>
