<script setup lang="ts">
import LedVisit from '../led/LedVisit.vue'

/** A contractor's visit: the same led visit, under the link. */
defineProps<{ token: string; unit: string }>()
</script>

<template>
  <LedVisit :id="unit" :token="token" />
</template>
