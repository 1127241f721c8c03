<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '../../api/client'
import { useLoad } from '../../parts/useLoad'
import { session } from '../../session'
import { count } from '../../words'

/** What an hour of a crew more would bring, at the hours that the intervals in force take and some shares of them. */
const { data } = useLoad(() => ask(api.GET('/hour-price')))
const now = computed(() => data.value?.rows.find((r) => r.share === 1))
const money = (v: number) => `${v.toFixed(0)} ${session.value?.currency ?? ''}`
</script>

<template>
  <details v-if="data && data.coils && now" class="hours">
    <summary>
      <template v-if="now.hour_price >= 0.5"
        >An hour more on site would bring {{ money(now.hour_price) }}.</template
      ><template v-else>There are hours enough: more would bring nothing.</template> Deep cleans take
      {{ data.in_force_year.toFixed(0) }} h a year as set; {{ data.best_year.toFixed(0) }} h would cost least.
    </summary>
    <table class="lines">
      <thead>
        <tr>
          <th scope="col" class="number">Hours a year</th>
          <th scope="col" class="number">Of those in force</th>
          <th scope="col" class="number">An hour more brings, {{ session?.currency }}</th>
          <th scope="col" class="number">Saves a year, {{ session?.currency }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in data.rows" :key="r.share">
          <td class="number">{{ r.hours_year.toFixed(0) }} h</td>
          <td class="number">{{ (100 * r.share).toFixed(0) }} %</td>
          <td class="number">{{ r.hour_price.toFixed(0) }}</td>
          <td class="number">{{ r.saves_year.toFixed(0).replace('-', '−') }}</td>
        </tr>
      </tbody>
    </table>
    <p class="soft">
      Over the deep cleans of {{ count(data.coils, 'coil') }}, on site, without driving, each with the work
      plan in force and the best interval for so many hours. Saved against the intervals in force, the price
      of days over the limit counted.
    </p>
  </details>
</template>

<style scoped>
.hours {
  margin: 10px 0;
}
.lines {
  max-width: 640px;
}
</style>
