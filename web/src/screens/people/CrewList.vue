<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import NumberInput from '../../parts/NumberInput.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import WeekdayPicker from '../../parts/WeekdayPicker.vue'
import { forgetCatalogue } from '../../session'
import { duration, weekdays } from '../../words'

/** Crews with the hours they work; the same on each of their days. */
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/crews')))
const editing = ref<{ id: string; name: string; starts: string; minutes: unknown; days: number[] } | null>(
  null,
)
const refused = ref<ApiProblem | null>(null)

function edit(c: Schemas['CrewRecord'] | null) {
  refused.value = null
  const first = c?.card.hours[0]
  editing.value = {
    id: c?.id ?? '',
    name: c?.card.name ?? '',
    starts: first?.starts ?? '07:30',
    minutes: first?.minutes ?? 450,
    days: c ? c.card.hours.map((h) => h.weekday) : [1, 2, 3, 4, 5],
  }
}
async function save() {
  const e = editing.value
  if (!e) return
  refused.value = null
  const body = {
    name: e.name,
    hours: e.days.map((weekday) => ({ weekday, starts: e.starts, minutes: e.minutes as number })),
  }
  try {
    await (e.id
      ? ask(api.PUT('/crews/{crew_id}', { params: { path: { crew_id: e.id } }, body }))
      : ask(api.POST('/crews', { body })))
    editing.value = null
    forgetCatalogue()
    await reload()
  } catch (err) {
    refused.value = problemOf(err)
  }
}
const hours = (c: Schemas['CrewCard']) => {
  const first = c.hours[0]
  return first
    ? `${c.hours.map((h) => weekdays[h.weekday]).join(', ')} from ${first.starts}, ${duration(first.minutes)}`
    : 'no hours yet'
}
</script>

<template>
  <fieldset class="part">
    <legend>Crews</legend>
    <LoadState :loading="loading && !data" :problem="problem" what="the crews" @retry="reload" />
    <p v-if="data && !data.length" class="soft">None yet: a round needs a crew with hours.</p>
    <ul class="plain">
      <li v-for="c in data ?? []" :key="c.id">
        <strong>{{ c.card.name }}</strong> {{ hours(c.card) }}
        <ElButton size="small" :aria-label="`Change ${c.card.name}`" @click="edit(c)">Change</ElButton>
      </li>
    </ul>
    <form v-if="editing" novalidate @submit.prevent="save">
      <ProblemNote :problem="refused" />
      <div class="fields">
        <label class="field"
          ><span class="label">Crew</span><ElInput v-model="editing.name" maxlength="120"
        /></label>
        <label class="field"
          ><span class="label">Starts at</span><ElInput v-model="editing.starts" type="time"
        /></label>
        <label class="field"
          ><span class="label">Works</span><NumberInput v-model="editing.minutes" unit="min"
        /></label>
      </div>
      <WeekdayPicker v-model="editing.days" label="On" />
      <div class="actions">
        <ElButton type="primary" native-type="submit" :disabled="!editing.name.trim()"
          >Save the crew</ElButton
        >
        <ElButton @click="editing = null">Leave it</ElButton>
      </div>
    </form>
    <ElButton v-else @click="edit(null)">Add a crew</ElButton>
  </fieldset>
</template>

<style scoped>
.plain {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.plain li {
  padding: 4px 0;
}
</style>
