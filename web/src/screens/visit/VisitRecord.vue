<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref } from 'vue'

import { api, ask } from '../../api/client'
import FileList from '../../parts/FileList.vue'
import HistoryList from '../../parts/HistoryList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManage } from '../../session'
import { moment, outcomeWords, shortDay } from '../../words'
import PhotoPairs from './PhotoPairs.vue'
import VisitDetails from './VisitDetails.vue'
import VisitTable from './VisitTable.vue'
import { useSubmit } from '../../parts/useSubmit'

const props = defineProps<{ id: string }>()
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/visits/{visit_id}', { params: { path: { visit_id: props.id } } })),
)
const voiding = ref(false)
const reason = ref('')
const { refused, submit } = useSubmit()
/** The sides' names, in the order in which visit and summary both list them. */
const sideNames = computed(() => {
  const ids = data.value?.visit.coils.flatMap((c) => c.sides.map((s) => s.surface_id)) ?? []
  return Object.fromEntries(ids.map((x, i) => [x, data.value?.summary.sides[i]?.side ?? '']))
})
const visits = computed(() => (data.value ? [data.value.summary] : []))
async function voidIt() {
  await submit(async () => {
    data.value = await ask(
      api.POST('/visits/{visit_id}/voiding', {
        params: { path: { visit_id: props.id } },
        body: { reason: reason.value },
      }),
    )
    voiding.value = false
  })
}
</script>

<template>
  <section class="screen">
    <LoadState :loading="loading && !data" :problem="problem" what="the visit" @retry="reload" />
    <template v-if="data">
      <div class="screen-head">
        <div>
          <p class="soft">
            <RouterLink :to="`/units/${data.visit.unit_id}`">{{ data.summary.tag }}</RouterLink> ·
            {{ data.summary.site }}
          </p>
          <h1>
            Visit of {{ shortDay(data.visit.day) }}: {{ outcomeWords[data.visit.outcome].toLowerCase()
            }}{{ data.status === 'submitted' ? '' : `, ${data.status}` }}
          </h1>
          <p class="soft">Sent {{ moment(data.submitted_at) }} by {{ data.by }}.</p>
        </div>
        <div class="actions">
          <RouterLink v-if="data.status === 'submitted'" class="button" :to="`/visits/${id}/report`"
            >Report to the site</RouterLink
          >
          <RouterLink
            v-if="mayManage() && data.status === 'submitted'"
            class="button"
            :to="{ path: `/units/${data.visit.unit_id}/visit`, query: { amend: id } }"
            >Amend</RouterLink
          >
          <ElButton v-if="mayManage() && data.status === 'submitted'" @click="voiding = !voiding"
            >Void</ElButton
          >
        </div>
      </div>
      <p v-if="data.status !== 'submitted'" class="notice danger">
        No longer in force: {{ data.status }}, “{{ data.status_reason }}”.
        <RouterLink v-if="data.superseded_by" :to="`/visits/${data.superseded_by}`"
          >The newer version</RouterLink
        >
      </p>
      <p v-if="data.supersedes" class="notice">
        This version replaces
        <RouterLink :to="`/visits/${data.supersedes}`">an earlier one</RouterLink>.
      </p>
      <form v-if="voiding" novalidate @submit.prevent="voidIt">
        <ProblemNote :problem="refused" />
        <label class="field"
          ><span class="label">Why this visit does not count</span
          ><ElInput v-model="reason" maxlength="1000" name="reason"
        /></label>
        <p class="soft">
          It is kept and can still be read; clocks, soil and proposals are worked out without it.
        </p>
        <ElButton type="danger" native-type="submit" :disabled="!reason.trim()">Void the visit</ElButton>
      </form>
      <VisitTable :visits="visits" />
      <VisitDetails :record="data" />
      <PhotoPairs :id="id" :sides="sideNames" />
      <fieldset class="part">
        <legend>Files</legend>
        <FileList :id="id" entity="visit" />
      </fieldset>
      <fieldset class="part">
        <legend>History</legend>
        <HistoryList :id="id" :key="data.status" entity="visit" />
      </fieldset>
    </template>
  </section>
</template>
