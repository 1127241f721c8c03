<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, onMounted, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { useSubmit } from '../../parts/useSubmit'
import { session } from '../../session'
import { count, kindWords, roleWords, schoolWords, shortDay } from '../../words'

/** Many proposals at once: first what would change, in dates, hours and money; then, if wanted, all of it. */
const props = defineProps<{ proposals: string[] }>()
const emit = defineEmits<{ close: []; changed: [] }>()

const shown = ref<Schemas['AcceptanceResult'] | null>(null)
const done = ref(false)
const { busy, refused, submit } = useSubmit()
const send = (preview: boolean) =>
  submit(async () => {
    shown.value = await ask(
      api.POST('/proposals/acceptance', { body: { proposal_ids: props.proposals, preview } }),
    )
    if (!preview) {
      done.value = true
      emit('changed')
    }
  })
onMounted(() => send(true))
const open = computed(() => shown.value?.lines.filter((l) => l.state === 'open').length ?? 0)
const money = (v: number) => `${v.toFixed(0)} ${session.value?.currency ?? ''}`
const stateWords = {
  open: '',
  accepted: 'accepted',
  superseded: 'superseded by newer evidence',
  overridden: 'answered',
}
const sums = computed(() => {
  const s = shown.value
  if (!s) return ''
  const hours = s.hours_year_after - s.hours_year_before
  const days = s.over_days_after - s.over_days_before
  return `${s.saves_year >= 0 ? 'Saves' : 'Costs'} ${money(Math.abs(s.saves_year))} a year; ${Math.abs(hours).toFixed(0)} h a year ${hours < 0 ? 'less' : 'more'} on site; ${Math.abs(days).toFixed(0)} days a year ${days < 0 ? 'fewer' : 'more'} over the limit.`
})
</script>

<template>
  <section class="panel" aria-label="Accept proposals">
    <h2 v-if="done">{{ count(shown?.accepted ?? 0, 'interval') }} changed.</h2>
    <h2 v-else>What accepting changes</h2>
    <p v-if="refused" class="field-error" role="alert">{{ refused.message }}</p>
    <template v-if="shown">
      <p>{{ sums }}</p>
      <p v-if="shown.superseded" class="over">
        {{ count(shown.superseded, 'proposal') }} superseded by newer evidence meanwhile; left alone. Look at
        those again.
      </p>
      <div class="scroll-x">
        <table class="lines">
          <thead>
            <tr>
              <th scope="col">Unit</th>
              <th scope="col">Task</th>
              <th scope="col">Interval</th>
              <th scope="col">By</th>
              <th scope="col">Next due</th>
              <th scope="col" class="number">Hours a year</th>
              <th scope="col" class="number">Saves a year, {{ session?.currency }}</th>
              <th scope="col"></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in shown.lines" :key="l.proposal_id">
              <td>
                <RouterLink :to="`/units/${l.unit_id}`">{{ l.tag }}</RouterLink>
                <span class="soft site">{{ l.site }}</span>
              </td>
              <td>{{ roleWords[l.role] }}, {{ kindWords[l.kind] }}</td>
              <td class="nowrap">
                {{ l.from_days }} → <strong>{{ l.to_days }} d</strong>
              </td>
              <td>{{ schoolWords[l.school].toLowerCase() }}</td>
              <td class="nowrap">{{ shortDay(l.due_before) }} → {{ shortDay(l.due_after) }}</td>
              <td class="number">
                {{ l.hours_year_before.toFixed(1) }} → {{ l.hours_year_after.toFixed(1) }}
              </td>
              <td class="number">{{ l.saves_year === undefined ? '–' : l.saves_year.toFixed(0) }}</td>
              <td class="soft">{{ stateWords[l.state] }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <div class="actions">
      <ElButton v-if="!done && open" type="primary" :loading="busy" @click="send(false)"
        >Accept {{ count(open, 'proposal') }}</ElButton
      >
      <ElButton @click="emit('close')">{{ done ? 'Close' : 'Cancel' }}</ElButton>
    </div>
  </section>
</template>

<style scoped>
.panel {
  border-top: 2px solid var(--petrol);
  border-bottom: 1px solid var(--hairline);
  padding: 8px 0 12px;
  margin: 6px 0;
}
h2 {
  margin: 0 0 4px;
}
.site {
  margin-left: 8px;
}
.actions {
  margin-top: 8px;
}
</style>
