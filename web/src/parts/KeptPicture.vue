<script setup lang="ts">
import { onBeforeUnmount, ref } from 'vue'

import { owner } from '../offline/owner'
import { shelf } from '../offline/shelf'

/** A picture of a record: as it is kept on this phone, else from the server. */
const props = defineProps<{ id: string; alt: string }>()
const source = ref('')
const missing = ref(false)
let mine = ''
async function find() {
  const kept = owner() ? await (await shelf()).get('pictures', props.id) : undefined
  if (kept) mine = URL.createObjectURL(kept.blob)
  source.value = mine || `/api/v1/attachments/${props.id}`
}
void find().catch(() => (source.value = `/api/v1/attachments/${props.id}`))
onBeforeUnmount(() => mine && URL.revokeObjectURL(mine))
</script>

<template>
  <p v-if="missing" class="soft">{{ alt }}: the picture is not on this phone.</p>
  <img v-else-if="source" :src="source" :alt="alt" loading="lazy" @error="missing = true" />
</template>
