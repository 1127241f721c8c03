<script setup lang="ts">
import { ref } from 'vue'

/** A button that erases something: it asks first. */
defineProps<{ label: string; ask: string; name?: string; look?: string }>()
const emit = defineEmits<{ sure: [] }>()
const asking = ref(false)
function yes() {
  asking.value = false
  emit('sure')
}
</script>

<template>
  <span v-if="asking" class="asking" role="alertdialog" :aria-label="ask">
    {{ ask }}
    <button type="button" class="quiet" @click="yes">Yes, erase</button>
    <button type="button" class="quiet" @click="asking = false">No</button>
  </span>
  <button v-else type="button" :class="look ?? 'quiet'" :aria-label="name" @click="asking = true">
    {{ label }}
  </button>
</template>

<style scoped>
.asking {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.asking .quiet {
  min-height: 44px;
}
</style>
