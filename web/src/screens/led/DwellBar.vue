<script setup lang="ts">
import { onMounted, watch } from 'vue'

import { session } from '../../session'
import { clockOf, useClock, useTimers } from './clock'
import { clocks, readClocks } from './running'

/** The dwell clocks that run, on every screen: what stands how long, and what rings. */
const { now } = useClock()
const { away, rung, lookUp } = useTimers(() => clocks.value)
onMounted(() => {
  readClocks()
  lookUp()
})
watch(
  () => session.value?.person_id,
  () => readClocks(),
)
const stood = (c: { sprayed: number }) => (now.value - c.sprayed) / 1000
</script>

<template>
  <aside v-if="clocks.length || rung" class="dwell no-print" aria-label="Cleaner that stands">
    <div v-if="rung" class="rung" role="alert">
      <strong>{{ rung }}</strong>
      <button type="button" class="quiet" @click="rung = ''">Seen</button>
    </div>
    <div v-if="away.length" class="away" role="status">
      <p v-for="a in away" :key="a.name">
        <strong>{{ a.name }} has been dwelling for {{ clockOf(a.stood) }}.</strong>
        <span v-if="a.over > 0" class="over"> Past its maximum by {{ clockOf(a.over) }}: rinse now.</span>
      </p>
      <button type="button" class="quiet" @click="away = []">Seen</button>
    </div>
    <p v-for="c in clocks" :key="c.coil_id" class="run" :class="{ late: stood(c) > c.max_s }">
      <RouterLink :to="`/units/${c.unit_id}/work?step=apply_cleaner`"
        >{{ c.name }}: <strong>{{ clockOf(stood(c)) }}</strong> of {{ c.min_s / 60 }} to
        {{ c.max_s / 60 }} min<span class="visually-hidden">, show its step</span></RouterLink
      >
    </p>
    <p v-if="clocks.length" class="soft">Leave the screen on: a locked phone cannot ring.</p>
  </aside>
</template>

<style scoped>
.dwell {
  position: sticky;
  top: 0;
  z-index: 8;
  background: var(--petrol-tint);
  padding: 2px 14px;
  border-bottom: 1px solid var(--hairline);
}
.dwell p {
  margin: 0;
}
.run a {
  display: flex;
  align-items: center;
  min-height: 44px;
  gap: 6px;
  color: var(--ink);
}
.late,
.rung {
  background: var(--danger-tint);
}
.rung,
.away {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
  padding: 4px 0;
}
.soft {
  font-size: 13px;
}
</style>
