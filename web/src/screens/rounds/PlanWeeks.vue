<script setup lang="ts">
import { ElButton, ElCheckbox, ElInputNumber, ElProgress } from 'element-plus'
import { onBeforeUnmount, ref } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { session } from '../../session'

/** Plans the coming weeks in the background, tells how far it is, and can be stopped. */
defineProps<{ again: boolean }>()
const emit = defineEmits<{ done: [] }>()

const weeks = ref(13)
const seconds = ref(5)
const fromScratch = ref(false)
const run = ref<Schemas['PlanRun'] | null>(null)
const problem = ref<ApiProblem | null>(null)
let timer = 0

async function start() {
  problem.value = null
  try {
    run.value = await ask(
      api.POST('/plan', {
        body: { weeks: weeks.value, seconds: seconds.value, from_scratch: fromScratch.value },
      }),
    )
    wait()
  } catch (e) {
    problem.value = problemOf(e)
  }
}
function wait() {
  timer = window.setTimeout(() => void look(), 250)
}
async function look() {
  try {
    run.value = await ask(api.GET('/plan/run'))
    if (run.value.status === 'running') wait()
    else if (run.value.status === 'failed') problem.value = problemOf(new Error(run.value.note))
    else emit('done')
  } catch (e) {
    problem.value = problemOf(e)
  }
}
async function stop() {
  try {
    await ask(api.DELETE('/plan/run'))
  } catch (e) {
    problem.value = problemOf(e)
  }
}
onBeforeUnmount(() => window.clearTimeout(timer))
const running = () => run.value?.status === 'running'
</script>

<template>
  <div class="plan-weeks no-print">
    <ProblemNote :problem="problem" />
    <div v-if="running()" class="going" role="status">
      <ElProgress
        :percentage="Math.round(100 * (run?.share ?? 0))"
        :aria-label="'Planning'"
        :stroke-width="10"
      />
      <span class="soft"
        >{{ run?.placed ?? 0 }} jobs placed, cost {{ (run?.cost ?? 0).toFixed(0) }}
        {{ session?.currency }} and falling</span
      >
      <ElButton size="small" @click="stop">Stop and keep the best so far</ElButton>
    </div>
    <div v-else class="ask">
      <label
        ><span class="label">Weeks</span
        ><ElInputNumber v-model="weeks" :min="1" :max="26" :controls="false" aria-label="Weeks to plan"
      /></label>
      <label
        ><span class="label">Search for, s</span
        ><ElInputNumber
          v-model="seconds"
          :min="1"
          :max="600"
          :controls="false"
          aria-label="Seconds to search"
      /></label>
      <ElCheckbox v-if="again" v-model="fromScratch">from scratch</ElCheckbox>
      <ElButton :type="again ? 'default' : 'primary'" @click="start">{{
        again ? 'Plan again' : 'Plan the weeks'
      }}</ElButton>
    </div>
  </div>
</template>

<style scoped>
.ask,
.going {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: end;
}
.going {
  align-items: center;
}
.going :deep(.el-progress) {
  width: 220px;
}
label {
  width: 96px;
}
label :deep(.el-input-number) {
  width: 100%;
}
</style>
