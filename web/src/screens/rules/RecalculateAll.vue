<script setup lang="ts">
import { ElButton, ElProgress } from 'element-plus'
import { computed, onBeforeUnmount, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { count } from '../../words'

/** Everything recalculated in the background: how far it is, and stopping it. */
type Run = Schemas['EstimationRun']
const { data } = useLoad(() => ask(api.GET('/estimations')))
const started = ref<Run | null>(null)
const run = computed(() => started.value ?? data.value?.[0] ?? null)
const { busy, refused, submit } = useSubmit()
const under = computed(() => run.value?.status === 'queued' || run.value?.status === 'running')
/** Both steps go over all units. */
const share = computed(() => {
  const r = run.value
  if (!r || !r.total) return 0
  const steps =
    ['records', 'learning', 'proposing', 'done'].indexOf(r.step) + (r.step === 'done' ? 0 : r.done / r.total)
  return Math.min(100, Math.round(50 * steps))
})
const says = computed(() => {
  const r = run.value
  if (!r) return ''
  if (r.status === 'queued') return 'Waiting for its turn.'
  if (r.status === 'running')
    return r.step === 'learning'
      ? `Learning rates: ${r.done} of ${count(r.total, 'unit')}.`
      : `Recalculating intervals: ${r.done} of ${count(r.total, 'unit')}.`
  if (r.status === 'done') return `All ${count(r.total, 'unit')} worked out.`
  return `${r.status === 'cancelled' ? 'Stopped' : 'Failed'}: ${r.note}.`
})
const again = 500
let waiting: ReturnType<typeof setTimeout> | undefined
async function follow() {
  const id = run.value?.id
  if (!id || !under.value) return
  started.value = await ask(
    api.GET('/estimations/{estimation_id}', { params: { path: { estimation_id: id } } }),
  )
  if (under.value) waiting = setTimeout(follow, again)
}
const start = () =>
  submit(async () => {
    started.value = await ask(api.POST('/estimations'))
    await follow()
  })
const stop = () =>
  submit(async () => {
    if (run.value)
      started.value = await ask(
        api.DELETE('/estimations/{estimation_id}', { params: { path: { estimation_id: run.value.id } } }),
      )
  })
onBeforeUnmount(() => clearTimeout(waiting))
</script>

<template>
  <section class="recalculate" aria-label="Recalculate all rates and proposals">
    <h2>Recalculate all rates and proposals</h2>
    <p class="soft">
      Rates, states and proposals follow each visit at once, and every coil each day. Here all of it is
      learned from the beginning: what methods take away, each side’s rate, and what its peers say.
    </p>
    <ElProgress v-if="under" :percentage="share" :stroke-width="10" aria-label="How far it is" />
    <p v-if="run" role="status">{{ says }}</p>
    <p v-if="refused" class="field-error" role="alert">{{ refused.message }}</p>
    <ElButton v-if="!under" :loading="busy" @click="start">Start</ElButton>
    <ElButton v-else @click="stop">Stop</ElButton>
  </section>
</template>

<style scoped>
.recalculate {
  border-top: 1px solid var(--hairline);
  margin-top: 28px;
  max-width: 640px;
}
</style>
