<script setup lang="ts">
import Work from '../work/Work.vue'

/** A contractor's visit: the same led visit, under the link. */
defineProps<{ token: string }>()
</script>

<template>
  <Work id="" :token="token" />
</template>
