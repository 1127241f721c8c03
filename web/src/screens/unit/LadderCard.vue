<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import ReasonList from '../../parts/ReasonList.vue'
import { useSubmit } from '../../parts/useSubmit'
import { mayManage, session } from '../../session'
import { percent } from '../../words'

/** The cheapest cycles of light and deep cleans, and what taking one on would mean. */
const props = defineProps<{ ladder: Schemas['CoilLadder']; tasks: Schemas['Task'][] }>()
const emit = defineEmits<{ changed: [] }>()

const rows = computed(() => {
  const l = props.ladder
  const shown = l.table.slice(0, 6)
  for (const extra of [l.cheapest, l.within_limit])
    if (extra && !shown.some((r) => r.rungs === extra.rungs && r.every_days === extra.every_days))
      shown.push(extra)
  return shown.sort((a, b) => a.rungs - b.rungs || a.every_days - b.every_days)
})
const same = (a?: Schemas['Ladder'], b?: Schemas['Ladder']) =>
  a && b && a.rungs === b.rungs && a.every_days === b.every_days
const cycle = (l: Schemas['Ladder']) =>
  l.rungs === 1
    ? `deep every ${l.every_days} d`
    : `light every ${l.every_days} d, each ${ordinal(l.rungs)} deep`
function ordinal(n: number) {
  return `${n}${n === 2 ? 'nd' : n === 3 ? 'rd' : 'th'}`
}
const answer = computed(() => {
  const l = props.ladder
  if (l.cheapest.rungs === 1) return `Deep cleans alone are cheapest: every ${l.cheapest.every_days} d.`
  return `Cheapest: ${cycle(l.cheapest)}, ${percent(l.saved_share)} less than deep cleans alone.`
})
const light = computed(() => props.tasks.find((t) => t.kind === 'light'))
const deep = computed(() => props.tasks.find((t) => t.kind === 'deep'))
const { busy, refused, submit } = useSubmit()
async function take(l: Schemas['Ladder']) {
  await submit(async () => {
    const set = (task: Schemas['Task'] | undefined, days: number) =>
      task &&
      ask(
        api.PUT('/tasks/{task_id}/interval', {
          params: { path: { task_id: task.task_id } },
          body: { days, reason: `ladder: ${cycle(l)}` },
        }),
      )
    if (l.rungs > 1) await set(light.value, l.every_days)
    await set(deep.value, l.every_days * l.rungs)
    emit('changed')
  })
}
</script>

<template>
  <section aria-label="Light and deep cleans">
    <h2>Light and deep</h2>
    <p class="answer">{{ answer }}</p>
    <table class="lines">
      <thead>
        <tr>
          <th scope="col">Cycle</th>
          <th scope="col" class="number">{{ session?.currency }} a day</th>
          <th scope="col" class="number">Most blocked</th>
          <th scope="col"></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in rows" :key="`${l.rungs} ${l.every_days}`">
          <td>
            {{ cycle(l) }}
            <span v-if="same(l, ladder.cheapest)" class="soft">least cost</span>
            <span v-else-if="same(l, ladder.within_limit)" class="soft">cheapest within the limit</span>
          </td>
          <td class="number">{{ l.total_day.toFixed(2) }}</td>
          <td class="number" :class="{ over: !l.holds_limit }">{{ percent(l.most_blocked_share) }}</td>
          <td>
            <ElButton
              v-if="mayManage() && deep && (light || l.rungs === 1)"
              size="small"
              :loading="busy"
              :aria-label="`Use ${cycle(l)}`"
              @click="take(l)"
              >Use</ElButton
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="refused" class="field-error" role="alert">{{ refused.message }}</p>
    <ReasonList :reasons="ladder.reasons" />
    <p class="soft">
      Light: {{ ladder.light_method.toLowerCase() }}. Deep: {{ ladder.deep_method.toLowerCase() }}. Each in
      the state it settles into; “most blocked” is that of the rate one time in five.
    </p>
  </section>
</template>

<style scoped>
h2 {
  margin: 20px 0 2px;
}
.answer {
  margin: 0 0 4px;
}
</style>
