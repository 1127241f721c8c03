<script setup lang="ts">
import { ElButton } from 'element-plus'
import { useRouter } from 'vue-router'

import { api, ask } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import ProblemNote from '../../parts/ProblemNote.vue'
import { forgetSession } from '../../session'
import { moment } from '../../words'

/** Where one is signed in, to be ended one by one or all at once. */
const router = useRouter()
const { refused, submit } = useSubmit()
const { data, loading, problem, reload } = useLoad(() => ask(api.GET('/sessions')))
const end = (id: string) =>
  submit(async () => {
    await ask(api.DELETE('/sessions/{session_id}', { params: { path: { session_id: id } } }))
    await reload()
  })
const everywhere = () =>
  submit(async () => {
    await ask(api.DELETE('/sessions'))
    forgetSession()
    await router.push('/sign-in')
  })
</script>

<template>
  <fieldset class="part">
    <legend>Where you are signed in</legend>
    <LoadState :loading="loading && !data" :problem="problem" what="your sessions" @retry="reload" />
    <ProblemNote :problem="refused" />
    <ul class="plainlist">
      <li v-for="s in data ?? []" :key="s.id">
        <span
          ><strong v-if="s.here">Here: </strong>{{ s.agent || 'a browser' }}, from {{ s.address }}, last used
          {{ moment(s.seen) }}</span
        >
        <ElButton v-if="!s.here" text @click="end(s.id)">End it</ElButton>
      </li>
    </ul>
    <ElButton @click="everywhere">Sign out everywhere</ElButton>
  </fieldset>
</template>

<style scoped>
ul {
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  overflow-wrap: anywhere;
}
</style>
