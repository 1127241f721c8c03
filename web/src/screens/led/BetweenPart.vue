<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '../../api/client'
import GradePicker from '../../parts/GradePicker.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { roleWords, seenWords, upperFirst } from '../../words'
import type { PassWork, Work } from './ledVisit'

/** A look between two passes, where somebody takes one: it says what the pass took by itself. */
const props = defineProps<{ pack: Schemas['VisitPack']; step: string }>()
const work = defineModel<Work>({ required: true })
const blown = ['gentle_air', 'leaf_blower']
const wet = computed(() => new Set(props.pack.catalogue.methods.filter((m) => m.wet).map((m) => m.code)))
/** The last pass of this step on each coil that another follows. */
const passes = computed(() =>
  work.value.coils.flatMap((c, ci) => {
    const list = c.on ? (c.passes ?? []) : []
    const of = (p: PassWork) =>
      props.step === 'air_through'
        ? blown.includes(p.method)
        : !wet.value.has(p.method) && !blown.includes(p.method) && p.method !== 'debris'
    const at = list.map(of).lastIndexOf(true)
    return at >= 0 && at < list.length - 1
      ? [{ ci, at, pass: list[at]!, role: props.pack.unit.coils.find((u) => u.id === c.coil_id)!.role }]
      : []
  }),
)
function grade(ci: number, at: number, value: number | null) {
  const pass = work.value.coils[ci]!.passes![at]!
  if (value === null) delete pass.after
  else pass.after = { grade: value, seen: pass.after?.seen ?? 'face_look' }
}
const seen = Object.entries(seenWords).map(([value, label]) => ({ value: value as Schemas['Seen'], label }))
</script>

<template>
  <template v-for="x in passes" :key="`${x.ci}-${x.at}`">
    <GradePicker
      :label="`${passes.length > 1 ? `${upperFirst(roleWords[x.role])}: h` : 'H'}ow it looks now, before the next pass (optional)`"
      :name="`between-${step}-${x.ci}`"
      :model-value="x.pass.after?.grade ?? null"
      @update:model-value="grade(x.ci, x.at, $event)"
    />
    <TapChoice
      v-if="x.pass.after"
      v-model="work.coils[x.ci]!.passes![x.at]!.after!.seen"
      label="Seen by"
      :options="seen"
    />
  </template>
</template>
