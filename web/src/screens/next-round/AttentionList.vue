<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '../../api/client'
import { useLoad } from '../../parts/useLoad'
import { shortDay } from '../../words'

/** What came back from the field and needs a decision. */
const { data } = useLoad(() => ask(api.GET('/attention')))
const few = computed(() => data.value?.slice(0, 12) ?? [])
</script>

<template>
  <template v-if="few.length">
    <h2 id="came-back">Came back from the field</h2>
    <ul class="waiting" aria-labelledby="came-back">
      <li v-for="(l, i) in few" :key="i">
        <RouterLink v-if="l.kind === 'symptom'" to="/symptoms">{{ l.tag }}</RouterLink><RouterLink
          v-else-if="l.visit_id"
          :to="`/visits/${l.visit_id}`"
          >{{ l.tag }}</RouterLink
        ><span class="soft">, {{ shortDay(l.day) }}</span>
        <div>{{ l.text }}</div>
        <div v-if="l.reason" class="soft">{{ l.reason }}</div>
      </li>
    </ul>
  </template>
</template>

<style scoped>
.waiting {
  list-style: none;
  padding: 0;
  margin: 6px 0 22px;
}
li {
  border-bottom: 1px solid var(--hairline);
  padding: 6px 0;
}
</style>
