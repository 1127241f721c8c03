<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import { partWords } from '../../api/facts.gen'
import GradePicker from '../../parts/GradePicker.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { percent, seenWords, shortDay } from '../../words'
import type { Work } from './ledVisit'

/** The unit's own surfaces that a step is about: the grade found, and the grade left where something was done. */
const props = defineProps<{ step: string; known: Schemas['PartState'][] }>()
const work = defineModel<Work>({ required: true })
const of: Record<string, Schemas['UnitPart'][]> = {
  wheel: ['wheel'],
  fan_blades: ['blades'],
  drain_pan: ['tray'],
  trough: ['trough'],
  base_debris: ['base'],
  filters: ['filter'],
  grille_wash: ['grille'],
}
const parts = computed(() => of[props.step] ?? [])
const known = (part: Schemas['UnitPart']) => props.known.find((k) => k.part === part)
const seen = Object.entries(seenWords).map(([value, label]) => ({ value: value as Schemas['Seen'], label }))
function set(part: Schemas['UnitPart'], which: 'grade' | 'left', value: number | null) {
  const was = work.value.surfaces[part] ?? { grade: null, left: null }
  work.value.surfaces[part] = { ...was, [which]: value }
}
</script>

<template>
  <template v-for="p in parts" :key="p">
    <p v-if="known(p)" class="soft">
      Probably {{ percent(known(p)!.blocked_share) }} soiled today; last found {{ known(p)!.found }} on
      {{ shortDay(known(p)!.day) }}.
    </p>
    <GradePicker
      :label="`${partWords[p]}, found`"
      :name="`${p}-found`"
      :model-value="work.surfaces[p]?.grade ?? null"
      @update:model-value="set(p, 'grade', $event)"
    />
    <TapChoice
      v-if="work.surfaces[p]?.grade != null"
      :model-value="work.surfaces[p]?.seen ?? ''"
      label="Seen by"
      :options="seen"
      @update:model-value="work.surfaces[p]!.seen = $event as Schemas['Seen']"
    />
    <GradePicker
      v-if="(work.surfaces[p]?.grade ?? 0) > 0"
      :label="`${partWords[p]}, as left`"
      :name="`${p}-left`"
      :model-value="work.surfaces[p]?.left ?? null"
      @update:model-value="set(p, 'left', $event)"
    />
  </template>
</template>
