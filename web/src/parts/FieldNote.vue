<script setup lang="ts">
import { computed } from 'vue'

import type { ApiProblem } from '../api/client'

/** What is wrong with one field, named by its pointer into the request. */
const props = defineProps<{ problem: ApiProblem | null; at: string }>()
const found = computed(() => props.problem?.fields.filter((f) => f.pointer === props.at) ?? [])
</script>

<template>
  <span v-for="f in found" :key="f.reason" class="field-error" role="alert">{{ f.reason }}</span>
</template>
