<script setup lang="ts">
import type { Schemas } from '../../api/client'

/** What a round takes along. */
defineProps<{ load: Schemas['LoadLine'][] }>()
</script>

<template>
  <p v-if="load.length" class="load">
    <span class="soft">Load</span> {{ load.map((l) => l.text).join(' · ') }}
  </p>
</template>

<style scoped>
.load {
  margin: 10px 0 0;
}
</style>
