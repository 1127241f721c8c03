<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, ask } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayRecord } from '../../session'
import { shortDay } from '../../words'

/** What the site is told, in plain words: to print, to keep as a file, or to mail. */
const props = defineProps<{ id: string }>()
const to = ref('')
const sent = ref('')
const { data, problem, loading, reload } = useLoad(async () => {
  const r = await ask(api.GET('/visits/{visit_id}/report', { params: { path: { visit_id: props.id } } }))
  to.value ||= r.mail ?? ''
  return r
})
const parts = computed(() => {
  const r = data.value
  return r
    ? (
        [
          ['Found', r.found],
          ['Done', r.done],
          ['Left, and why', r.left],
          ['Advised', r.advised],
          ['What you can do', r.weekly],
          ['Next', r.next],
        ] as [string, string[]][]
      ).filter(([, lines]) => lines.length)
    : []
})
const { busy, refused, submit } = useSubmit()
async function mail() {
  await submit(async () => {
    const m = await ask(
      api.POST('/visits/{visit_id}/report/mail', {
        params: { path: { visit_id: props.id } },
        body: { to: to.value },
      }),
    )
    sent.value =
      m.status === 'sent' ? `Sent to ${m.to}.` : `Not delivered yet (${m.error}); it is tried again.`
  })
}
const print = () => window.print()
</script>

<template>
  <section class="screen page">
    <LoadState :loading="loading && !data" :problem="problem" what="the report" @retry="reload" />
    <template v-if="data">
      <div class="no-print tools">
        <RouterLink class="button" :to="`/visits/${id}`">The record</RouterLink>
        <button type="button" class="plain-button" @click="print">Print</button>
        <a class="button" :href="`/api/v1/visits/${id}/report.pdf`" download="report.pdf">PDF</a>
        <form v-if="mayRecord()" novalidate @submit.prevent="mail">
          <label class="visually-hidden" for="report-to">Mail to</label>
          <input id="report-to" v-model="to" class="plain-input" type="email" placeholder="mail address" />
          <button type="submit" class="plain-button" :disabled="busy || !to">Mail it</button>
          <FieldNote :problem="refused" at="/to" />
        </form>
        <p v-if="sent" role="status">{{ sent }}</p>
      </div>
      <h1>{{ data.title }}</h1>
      <p>{{ data.site }}<br />{{ data.unit }}<br />{{ shortDay(data.day) }}</p>
      <section v-for="[head, lines] in parts" :key="head">
        <h2>{{ head }}</h2>
        <ul>
          <li v-for="l in lines" :key="l">{{ l }}</li>
        </ul>
      </section>
      <p class="soft foot">{{ data.told }} {{ data.cautions }}</p>
    </template>
  </section>
</template>

<style scoped>
.page {
  max-width: 760px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 18px;
}
.tools form {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.tools .button {
  min-height: 44px;
}
.tools input {
  width: 230px;
}
h2 {
  margin: 16px 0 4px;
}
ul {
  margin: 0;
  padding-left: 20px;
}
.foot {
  margin-top: 24px;
}
</style>
