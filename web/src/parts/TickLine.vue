<script setup lang="ts">
/** A line to tick, high enough for a thumb in a glove. */
defineProps<{ text: string; on: boolean }>()
const emit = defineEmits<{ tick: [] }>()
</script>

<template>
  <label class="tick-line" :class="{ on }">
    <input type="checkbox" class="visually-hidden" :checked="on" @change="emit('tick')" />
    <span aria-hidden="true">{{ on ? '✓' : '' }}</span>{{ text }}
  </label>
</template>

<style scoped>
label {
  position: relative;
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 46px;
  border-bottom: 1px solid var(--hairline);
  cursor: pointer;
}
span {
  flex: none;
  width: 26px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  display: flex;
  align-items: center;
  justify-content: center;
  background: var(--sheet);
}
label.on span {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
}
label:focus-within {
  outline: 2px solid var(--petrol);
}
</style>
