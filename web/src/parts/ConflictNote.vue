<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'

import type { ApiProblem } from '../api/client'

/** Both texts where somebody else saved first: what differs, side by side. Nothing was overwritten. */
const props = defineProps<{ problem: ApiProblem | null; mine: unknown }>()
defineEmits<{ theirs: []; mine: [] }>()

function leaves(v: unknown, at: string, into: Map<string, string>) {
  if (Array.isArray(v)) {
    v.forEach((x: unknown, i) => {
      const name = typeof x === 'object' && x !== null && 'name' in x ? String(x.name) : String(i + 1)
      leaves(x, `${at} ${name}`, into)
    })
  } else if (typeof v === 'object' && v !== null) {
    for (const [k, x] of Object.entries(v)) {
      if (k !== 'id' && !k.endsWith('_id'))
        leaves(x, at ? `${at} › ${k.replaceAll('_', ' ')}` : k.replaceAll('_', ' '), into)
    }
  } else if (v !== undefined && v !== null && v !== '') into.set(at, String(v))
}
const differing = computed(() => {
  const theirs = new Map<string, string>()
  const mine = new Map<string, string>()
  leaves(props.problem?.current?.card ?? props.problem?.current?.values, '', theirs)
  leaves(props.mine, '', mine)
  return [...new Set([...theirs.keys(), ...mine.keys()])]
    .filter((k) => theirs.get(k) !== mine.get(k))
    .map((field) => ({ field, theirs: theirs.get(field) ?? '', mine: mine.get(field) ?? '' }))
})
</script>

<template>
  <div v-if="problem?.current" class="notice danger" role="alert">
    <strong>{{ problem.message }}</strong>
    <table class="lines">
      <thead>
        <tr>
          <th scope="col">Field</th>
          <th scope="col">Yours, not saved</th>
          <th scope="col">Saved meanwhile</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="d in differing" :key="d.field">
          <td>{{ d.field }}</td>
          <td>{{ d.mine || '(empty)' }}</td>
          <td>{{ d.theirs || '(empty)' }}</td>
        </tr>
      </tbody>
    </table>
    <div class="actions">
      <ElButton @click="$emit('theirs')">Keep what was saved meanwhile</ElButton>
      <ElButton type="primary" @click="$emit('mine')">Save mine instead</ElButton>
    </div>
  </div>
</template>

<style scoped>
.lines {
  margin: 8px 0;
  color: var(--ink);
}
</style>
