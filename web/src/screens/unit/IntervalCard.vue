<script setup lang="ts">
import { ElButton, ElInput, ElInputNumber } from 'element-plus'
import { computed, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ReasonList from '../../parts/ReasonList.vue'
import { mayManage, session } from '../../session'
import {
  count,
  dueWords,
  kindWords,
  monthNames,
  percent,
  schoolWords,
  shortDay,
  upperFirst,
} from '../../words'
import { useSubmit } from '../../parts/useSubmit'
import CapList from './CapList.vue'
import ProgramCard from './ProgramCard.vue'

/** One task's interval: what is in force, what the schools say, what binds, and the manager's answer. */
const props = defineProps<{ task: Schemas['Task'] }>()
const emit = defineEmits<{ changed: [] }>()

const own = ref(false)
const days = ref(props.task.proposal.days)
const reason = ref('')
const { busy, refused, submit } = useSubmit()
const proposal = computed(() => props.task.proposal)
/** Another work plan is proposed, not an interval alone. */
const leads = computed(() => !!proposal.value.program?.leads)
const rails = computed(() =>
  proposal.value.reasons.filter(
    (r) =>
      r.code.startsWith('rail_') ||
      r.code === 'no_change' ||
      [
        'start_past_limit',
        'near_least_cost',
        'nothing_beats',
        'program_interval',
        'part_of_program',
        'caps_contradict',
      ].includes(r.code),
  ),
)
const schools = computed(() => [
  proposal.value.habit,
  proposal.value.staircase,
  proposal.value.limit,
  proposal.value.cost,
])
const money = (v: number) => `${v.toFixed(0)} ${session.value?.currency ?? ''}`
/** What accepting changes, in money and days over the limit. */
const brings = computed(() => {
  const p = proposal.value
  if (!p.in_force || !p.proposed || p.saves_year === undefined) return ''
  const saves = p.saves_year
  const from = Math.round(p.in_force.over_days_year)
  const to = Math.round(p.proposed.over_days_year)
  const cost =
    Math.abs(saves) < 0.5
      ? 'Costs the same'
      : `${saves > 0 ? 'Saves' : 'Costs'} ${money(Math.abs(saves))} a year`
  const assumed = props.task.assumed_share
  const rests = assumed === undefined ? '' : ` ${percent(assumed)} of this money is assumed.`
  return `${cost}; ${to} instead of ${from} days a year over the limit.${rests}`
})
const answerOf = {
  accepted: 'which was accepted',
  superseded: 'which newer evidence replaced',
  overridden: 'which was answered with another interval',
}
async function anchor(choice: string) {
  await submit(async () => {
    await ask(
      api.PUT('/tasks/{task_id}/anchor', {
        params: { path: { task_id: props.task.task_id } },
        body: choice === '' ? {} : { month: Number(choice) },
      }),
    )
    emit('changed')
  })
}
const monthOfTask = computed(() => monthNames[(props.task.anchor_month ?? 0) - 1] ?? 'any month')
const inDays = (d: number) => `${Math.round(d)} d`

async function send(accept: boolean) {
  await submit(async () => {
    if (proposal.value.id) {
      await ask(
        api.POST('/proposals/{proposal_id}/decision', {
          params: { path: { proposal_id: proposal.value.id } },
          body: accept ? { accept } : { accept, days: days.value, reason: reason.value },
        }),
      )
    } else {
      await ask(
        api.PUT('/tasks/{task_id}/interval', {
          params: { path: { task_id: props.task.task_id } },
          body: { days: days.value, reason: reason.value },
        }),
      )
    }
    own.value = false
    emit('changed')
  })
}
</script>

<template>
  <section class="card" :aria-label="kindWords[task.kind]">
    <h3>
      {{ upperFirst(kindWords[task.kind]) }}: {{ task.ended ? 'none' : `every ${task.every_days} d` }}
      <span v-if="!task.ended" class="due" :class="{ over: task.days_late > 0 && !task.first_look }">{{
        dueWords(task)
      }}</span>
    </h3>
    <p v-if="task.on_round" class="soft">On the round of {{ shortDay(task.on_round) }}.</p>
    <p v-if="task.ended" class="soft">
      The work plan in force has no such clean. An interval of your own begins it again.
    </p>
    <ul v-if="proposal.advice.length && !task.ended" class="advice">
      <li v-for="a in proposal.advice" :key="a.code">{{ a.text }}</li>
    </ul>
    <ProgramCard v-if="proposal.program" :program="proposal.program" />
    <component :is="proposal.program ? 'details' : 'div'" v-if="!task.ended">
      <summary v-if="proposal.program">Four ways to set the interval of the plan in force</summary>
      <table class="lines">
        <tbody>
          <tr v-for="s in schools" :key="s.school" :class="{ leads: s.school === proposal.school }">
            <th scope="row">{{ schoolWords[s.school] }}</th>
            <td class="nowrap">
              <strong v-if="s.days">{{
                inDays(s.school === 'limit' ? Math.floor(s.days) : s.days)
              }}</strong><span v-else class="soft">–</span>
            </td>
            <td>
              <ReasonList
                v-if="s.reasons.length"
                :reasons="s.school === 'staircase' ? s.reasons.slice(0, 1) : s.reasons"
              />
              <span v-else class="soft">{{
                s.school === 'staircase' ? 'No finding yet.' : 'Nothing is known of its soil yet.'
              }}</span>
            </td>
          </tr>
          <tr v-if="rails.length">
            <th scope="row">Why not longer or shorter</th>
            <td></td>
            <td><ReasonList :reasons="rails" /></td>
          </tr>
        </tbody>
      </table>
    </component>
    <div v-if="proposal.id" class="proposal">
      <p v-if="leads">
        Proposed: <strong>the cheapest work plan, every {{ proposal.days }} d</strong>.
      </p>
      <p v-else>
        Proposed by {{ schoolWords[proposal.school].toLowerCase() }}:
        <strong>every {{ proposal.days }} d ({{ count(proposal.days / 7, 'week') }})</strong> instead of
        {{ task.every_days }} d.
      </p>
      <p v-if="brings && !leads">{{ brings }}</p>
    </div>
    <div v-if="proposal.since && !task.ended" class="since">
      <p class="soft">
        Since the proposal of {{ shortDay(proposal.since.at.slice(0, 10)) }} for {{ proposal.since.days }} d,
        {{ answerOf[proposal.since.answer] }}:
        <template v-if="!proposal.since.changes.length"
          >nothing it rests on has changed by more than a twentieth.</template
        >
      </p>
      <ReasonList v-if="proposal.since.changes.length" :reasons="proposal.since.changes" />
    </div>
    <div v-if="mayManage()">
      <span v-if="refused && !refused.fields.length" class="field-error" role="alert">{{
        refused.message
      }}</span>
      <div v-if="!own" class="actions">
        <ElButton v-if="proposal.id" type="primary" :loading="busy" @click="send(true)">{{
          leads ? `Accept work plan, every ${proposal.days} d` : `Accept ${proposal.days} d`
        }}</ElButton>
        <ElButton @click="own = true">Set my own</ElButton>
      </div>
      <form v-else class="own" novalidate @submit.prevent="send(false)">
        <label class="field"
          ><span class="label">Every, days</span>
          <ElInputNumber v-model="days" :min="1" :max="3650" aria-label="Days" />
          <FieldNote :problem="refused" at="/days" />
        </label>
        <label class="field"
          ><span class="label">Reason</span>
          <ElInput v-model="reason" name="reason" maxlength="1000" />
          <FieldNote :problem="refused" at="/reason" />
        </label>
        <div class="actions">
          <ElButton type="primary" native-type="submit" :loading="busy">Set {{ days }} d</ElButton>
          <ElButton @click="own = false">Cancel</ElButton>
        </div>
      </form>
    </div>
    <label v-if="task.anchor_month !== undefined && mayManage() && !task.ended" class="month"
      ><span class="label">Should fall into</span>
      <select
        :value="task.anchor_from === 'task' ? task.anchor_month : ''"
        class="plain-input"
        name="anchor-month"
        @change="anchor(($event.target as HTMLSelectElement).value)"
      >
        <option value="">
          {{
            task.anchor_from === 'task'
              ? 'what site, class and house say'
              : `${monthOfTask} (site, class or house)`
          }}
        </option>
        <option :value="0">any month</option>
        <option v-for="(name, i) in monthNames" :key="name" :value="i + 1">{{ name }}</option>
      </select>
    </label>
    <CapList :task="task" @changed="emit('changed')" />
  </section>
</template>

<style scoped>
.month {
  display: block;
  margin: 8px 0;
}
.card {
  border-top: 1px solid var(--hairline);
  padding: 10px 0 16px;
}
h3 {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  justify-content: space-between;
  font-size: 16px;
}
.due {
  font-weight: 400;
  font-size: 14px;
}
.due.over {
  font-weight: 600;
}
.card th {
  white-space: nowrap;
  vertical-align: top;
  padding-top: 5px;
}
.leads th,
.leads strong {
  color: var(--petrol);
}
.advice {
  margin: 6px 0;
  padding: 6px 12px;
  list-style: none;
  border-left: 3px solid var(--danger);
}
.proposal {
  background: var(--petrol-tint);
  padding: 8px 12px;
  margin: 10px 0;
}
.proposal p {
  margin: 0;
}
.actions {
  margin-top: 8px;
}
.own {
  margin-top: 8px;
}
</style>
