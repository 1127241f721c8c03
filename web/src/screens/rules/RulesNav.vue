<script setup lang="ts">
import { useRoute } from 'vue-router'

/** The parts of the organisation rules. */
const route = useRoute()
const parts = [
  { to: '/house-rules', label: 'Catalogues' },
  { to: '/house-rules/practice', label: 'Practice' },
  { to: '/house-rules/procedures', label: 'Procedures' },
  { to: '/stock', label: 'Stock and doses' },
]
</script>

<template>
  <nav class="parts" aria-label="Parts of the organisation rules">
    <RouterLink
      v-for="p in parts"
      :key="p.to"
      :to="p.to"
      :class="{ here: route.path === p.to }"
      :aria-current="route.path === p.to ? 'page' : undefined"
      >{{ p.label }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 20px;
  margin-bottom: 12px;
  border-bottom: 2px solid var(--ink);
}
.parts a {
  padding: 8px 0;
  color: var(--ink-soft);
  text-decoration: none;
}
.parts a.here {
  color: var(--ink);
  font-weight: 650;
}
</style>
