<script setup lang="ts">
import { computed } from 'vue'

import { ahead } from '../api/client'
import { clockSkew } from './clockSkew'

/** Says when this device's clock is not the server's. */
const skew = computed(() => clockSkew(ahead.value))
</script>

<template>
  <p v-if="skew" class="notice no-print" role="status">
    This phone’s clock is {{ skew.words }} the server’s. Set it; the times of a visit begun before can be
    mended at its end.
  </p>
</template>
