<script setup lang="ts">
import type { Schemas } from '../../api/client'
import { partWords } from '../../api/facts.gen'
import SiltGrade from '../../parts/SiltGrade.vue'
import { percent, shortDay } from '../../words'

/** The unit's own surfaces beside its coils: the soil expected today, how each was found last, when it reaches the limit. */
defineProps<{ parts: Schemas['PartState'][]; today: string }>()
</script>

<template>
  <h2>Wheel, pan and filter</h2>
  <ul class="plain">
    <li v-for="p in parts" :key="p.part">
      <div>
        <strong>{{ partWords[p.part] }}</strong>{{ ' ' }} <SiltGrade :grade="p.grade" /> probably
        {{ percent(p.blocked_share) }} soiled today,
        {{ p.due <= today ? 'over the limit' : `at the limit about ${shortDay(p.due)}` }}
        <div class="soft">
          Found <SiltGrade :grade="p.found" /><template v-if="p.left !== undefined">
            and left <SiltGrade :grade="p.left"
          /></template>
          on {{ shortDay(p.day) }}; {{ p.own ? 'at its own rate' : 'at the rate of its class' }}.
        </div>
      </div>
    </li>
  </ul>
</template>

<style scoped>
h2 {
  margin-bottom: 4px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
