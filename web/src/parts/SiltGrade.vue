<script setup lang="ts">
import { gradeNames } from '../words'

/** A grade on the silt scale: its colour, always with its number, and with its name where there is room. */
withDefaults(defineProps<{ grade: number; name?: boolean }>(), { name: false })
</script>

<template>
  <span class="silt" :class="`g${grade}`"
    ><span class="n">{{ grade }}</span
    ><span v-if="name" class="w">{{ gradeNames[grade] }}</span
    ><span v-else class="visually-hidden">{{ gradeNames[grade] }}</span></span
  >
</template>

<style scoped>
.silt {
  display: inline-flex;
  align-items: center;
  white-space: nowrap;
}
.n {
  display: inline-block;
  min-width: 20px;
  padding: 0 5px;
  text-align: center;
  font-weight: 650;
  line-height: 20px;
  print-color-adjust: exact;
}
.w {
  padding-left: 6px;
}
.g0 .n {
  background: var(--silt-0);
  color: var(--on-pale);
}
.g1 .n {
  background: var(--silt-1);
  color: var(--on-pale);
}
.g2 .n {
  background: var(--silt-2);
  color: var(--on-pale);
}
.g3 .n {
  background: var(--silt-3);
  color: var(--on-silt);
}
.g4 .n {
  background: var(--silt-4);
  color: var(--on-silt);
}
.g5 .n {
  background: var(--silt-5);
  color: var(--on-silt);
}
</style>
