<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '../api/client'
import { moment } from '../words'
import LoadState from './LoadState.vue'
import { useLoad } from './useLoad'

/** Who changed a record, when, and from what to what. */
const props = defineProps<{
  entity: 'unit' | 'site' | 'visit' | 'rule' | 'person' | 'crew' | 'plan' | 'cleaner'
  id: string
}>()
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/audit', { params: { query: { entity: props.entity, entity_id: props.id } } })),
)
const lines = computed(() => data.value ?? [])
defineExpose({ reload })
</script>

<template>
  <LoadState :loading="loading && !data" :problem="problem" what="the history" @retry="reload" />
  <p v-if="data && !lines.length" class="soft">Nothing was changed by hand yet.</p>
  <ul class="plain">
    <li v-for="l in lines" :key="l.id">
      <span class="soft">{{ moment(l.at) }}, {{ l.by || 'the program' }}:</span> {{ l.action }}
      <ul v-if="l.changes.length" class="changes">
        <li v-for="c in l.changes" :key="c.path">
          {{ c.path }}:
          <template v-if="c.before"
            ><s>{{ c.before }}</s> →
          </template>
          {{ c.after || '(empty)' }}
        </li>
      </ul>
    </li>
  </ul>
</template>

<style scoped>
.plain {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain > li {
  padding: 4px 0;
  border-bottom: 1px solid var(--hairline);
}
.changes {
  margin: 0;
  padding-left: 18px;
  font-size: 13.5px;
}
</style>
