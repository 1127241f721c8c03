<script setup lang="ts">
import { ElButton } from 'element-plus'
import { ref } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { mayRecord, session } from '../../session'
import { companionWords, doerWords, dueWords, upperFirst } from '../../words'

/** The clocks beside light and deep; a tick says that one was done today. */
defineProps<{ companions: Schemas['Companion'][] }>()
const emit = defineEmits<{ changed: [] }>()
const refused = ref<ApiProblem | null>(null)
const busy = ref('')
async function tick(c: Schemas['Companion']) {
  busy.value = c.id
  refused.value = null
  try {
    await ask(
      api.POST('/tasks/{task_id}/ticks', {
        params: { path: { task_id: c.id } },
        body: { day: session.value?.today ?? '' },
      }),
    )
    emit('changed')
  } catch (e) {
    refused.value = problemOf(e)
  } finally {
    busy.value = ''
  }
}
</script>

<template>
  <h2>Companion tasks</h2>
  <ProblemNote :problem="refused" />
  <ul class="plain">
    <li v-for="c in companions" :key="c.id">
      <div>
        <strong>{{ upperFirst(companionWords[c.kind]) }}</strong> every {{ c.every_days }} d,
        {{ doerWords[c.doer] }}
        <span v-if="c.paused" class="soft">paused</span>
        <span v-else class="soft" :class="{ over: c.days_late > 0 && !c.first_look }">{{
          c.first_look ? 'never recorded here' : dueWords(c)
        }}</span>
      </div>
      <ElButton
        v-if="mayRecord() && !c.paused"
        size="small"
        :loading="busy === c.id"
        :aria-label="`${upperFirst(companionWords[c.kind])} done today`"
        @click="tick(c)"
        >Done today</ElButton
      >
    </li>
  </ul>
</template>

<style scoped>
h2 {
  margin: 20px 0 6px;
}
.plain {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain li {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
}
.soft {
  display: block;
}
</style>
