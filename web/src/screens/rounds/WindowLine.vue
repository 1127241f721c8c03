<script setup lang="ts">
import type { Schemas } from '../../api/client'
import { windowWords } from '../../words'

/** When the site may be worked in that day. */
defineProps<{ windows: Schemas['Window'][] }>()
</script>

<template>
  <div v-if="windows.length" class="windows">
    <span v-for="w in windows" :key="w.kind + w.starts">
      {{ windowWords[w.kind] }} {{ w.starts }} to {{ w.ends
      }}<template v-if="w.note"> ({{ w.note }})</template>{{ ' ' }}</span
    >
  </div>
  <div v-else class="windows">no opening hours kept for that day</div>
</template>

<style scoped>
.windows {
  font-weight: 400;
  font-size: 14px;
}
</style>
