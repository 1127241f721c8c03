<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import DwellBench from './DwellBench.vue'
import FindCoil from './FindCoil.vue'
import MethodBench from './MethodBench.vue'
import MixBench from './MixBench.vue'
import PractiseGrading from './PractiseGrading.vue'
import SaturationBench from './SaturationBench.vue'

/** The calculator outside any visit. */
const route = useRoute()
const router = useRouter()
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/bench')))
const tools = {
  method: 'Work plan',
  mix: 'Mix',
  dwell: 'Dwell of a batch',
  saturation: 'Saturation',
  coil: 'Where is the coil',
  grading: 'Practise grading',
} as const
type Tool = keyof typeof tools
const tool = computed<Tool>(() =>
  String(route.query.tool) in tools ? (String(route.query.tool) as Tool) : 'method',
)
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>Bench</h1>
      <p v-if="data" class="soft deferral">{{ data.deferral }}</p>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the bench" @retry="reload" />
    <template v-if="data">
      <nav class="tables" aria-label="Tools">
        <button
          v-for="(word, key) in tools"
          :key="key"
          type="button"
          :class="{ here: tool === key }"
          :aria-current="tool === key ? 'true' : undefined"
          @click="router.replace({ query: { tool: key } })"
        >
          {{ word }}
        </button>
      </nav>
      <MethodBench v-if="tool === 'method'" :pack="data" />
      <MixBench v-else-if="tool === 'mix'" :pack="data" />
      <DwellBench v-else-if="tool === 'dwell'" :pack="data" />
      <SaturationBench v-else-if="tool === 'saturation'" :pack="data" />
      <FindCoil v-else-if="tool === 'coil'" :pack="data" />
      <PractiseGrading v-else />
    </template>
  </section>
</template>

<style scoped>
.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  border-bottom: 1px solid var(--hairline);
  margin-bottom: 14px;
}
.tables button {
  min-width: 44px;
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink-soft);
  padding: 10px 0 8px;
  min-height: 44px;
  border-bottom: 3px solid transparent;
  cursor: pointer;
}
.tables button.here {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--petrol);
}
.deferral {
  max-width: 620px;
}
</style>
