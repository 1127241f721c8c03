<script setup lang="ts">
import { api, ask } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import { count } from '../../words'
import VisitTable from './VisitTable.vue'

const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/visits')))
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>{{ data?.length ? `The newest ${count(data.length, 'visit')}` : 'Visits' }}</h1>
      <a v-if="data?.length" class="button" href="/api/v1/exports/visits" download>Export all visits</a>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the visits" @retry="reload" />
    <p v-if="data && !data.length" class="notice">
      No visit recorded yet. Open a unit in the <RouterLink to="/portfolio">portfolio</RouterLink> to record
      one.
    </p>
    <VisitTable v-if="data?.length" :visits="data" units />
  </section>
</template>
