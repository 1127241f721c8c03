<script setup lang="ts">
import { ElButton } from 'element-plus'

import type { ApiProblem } from '../api/client'

/** Stands in for a screen while it loads or when it could not be loaded. */
defineProps<{ loading: boolean; problem: ApiProblem | null; what: string }>()
defineEmits<{ retry: [] }>()
</script>

<template>
  <div v-if="problem" class="notice danger" role="alert">
    <p>
      <strong>{{ upper(what) }} could not be loaded.</strong> {{ problem.message }}
    </p>
    <p v-if="problem.requestId" class="soft">Request {{ problem.requestId }}</p>
    <ElButton @click="$emit('retry')">Try again</ElButton>
  </div>
  <p v-else-if="loading" class="soft" role="status">Loading {{ what }} …</p>
</template>

<script lang="ts">
const upper = (s: string) => s.slice(0, 1).toUpperCase() + s.slice(1)
</script>
