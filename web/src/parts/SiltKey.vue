<script setup lang="ts">
import SiltGrade from './SiltGrade.vue'
</script>

<template>
  <p class="key soft">
    <SiltGrade v-for="g in 6" :key="g" :grade="g - 1" name />
    <span>comb: face from the left, core from the right, hatched where nobody has seen it</span>
  </p>
</template>

<style scoped>
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 12px 0 0;
}
</style>
