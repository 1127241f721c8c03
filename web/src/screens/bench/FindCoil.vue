<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'

const props = defineProps<{ pack: Schemas['BenchPack'] }>()
const text = ref('')
const found = computed(() => {
  const t = text.value.trim().toLowerCase()
  return props.pack.classes.filter(
    (c) => c.coil && (!t || `${c.name} ${c.coil} ${c.access} ${c.notes}`.toLowerCase().includes(t)),
  )
})
</script>

<template>
  <label class="field search"
    ><span class="label">What it looks like</span
    ><input
      v-model="text"
      class="plain-input"
      placeholder="for example: ladder, kick plate, rear panel, wall"
  /></label>
  <p class="soft">Common practice, no source; the maker’s manual comes first.</p>
  <div class="scroll-x">
    <table class="lines">
      <thead>
        <tr>
          <th>Design</th>
          <th>Where the coil is</th>
          <th>How it is reached</th>
          <th>Mind</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in found" :key="c.class_id">
          <td>
            <strong>{{ c.name }}</strong>
          </td>
          <td>{{ c.coil }}</td>
          <td>{{ c.access }}</td>
          <td>{{ c.notes }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="!found.length" class="soft">No design is described that way.</p>
</template>

<style scoped>
.search {
  max-width: 480px;
}
</style>
