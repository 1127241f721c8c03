<script setup lang="ts">
import { gradeNames } from '../words'

/** A grade on the silt scale: its colour, always with its number, and with its name where there is room. */
withDefaults(defineProps<{ grade: number; name?: boolean }>(), { name: false })
</script>

<template>
  <span class="silt"
    ><span class="n" :class="`g${grade}`">{{ grade }}</span
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
</style>
