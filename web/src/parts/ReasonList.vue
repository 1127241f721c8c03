<script setup lang="ts">
import type { Schemas } from '../api/client'

/** The terms that made up a result, each marked when it rests on an assumption. */
defineProps<{ reasons: Schemas['Reason'][] }>()
</script>

<template>
  <ul class="reasons">
    <li v-for="(r, i) in reasons" :key="i">
      {{ r.text }}
      <span
        v-if="r.evidence === 'assumption'"
        class="mark"
        title="An assumption of this program, to be replaced by your own figures"
        >assumed</span
      >
      <span
        v-else-if="r.evidence === 'common_practice'"
        class="mark"
        title="Common practice, no published source"
        >practice</span
      >
    </li>
  </ul>
</template>

<style scoped>
.reasons {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 14px;
}
.mark {
  font-size: 12.5px;
  color: var(--ink-soft);
  border-bottom: 1px dotted var(--ink-soft);
  margin-left: 4px;
  white-space: nowrap;
}
</style>
