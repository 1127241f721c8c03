<script setup lang="ts">
import { api, ask } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManage } from '../../session'
import { duration, longDay, upperFirst } from '../../words'

const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/rounds')))
</script>

<template>
  <section class="screen">
    <div class="screen-head"><h1>Rounds that went out</h1></div>
    <LoadState :loading="loading && !data" :problem="problem" what="the rounds" @retry="reload" />
    <p v-if="data && !data.length" class="notice">
      No round has gone out yet. <RouterLink v-if="mayManage()" to="/">Publish the next one</RouterLink>
    </p>
    <table v-if="data?.length" class="lines">
      <thead>
        <tr>
          <th scope="col">Day</th>
          <th scope="col">Crew</th>
          <th scope="col" class="number">Stops</th>
          <th scope="col" class="number">Jobs</th>
          <th scope="col" class="number">Work, of hours</th>
          <th scope="col">Standing</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in data" :key="r.id">
          <td>
            <RouterLink :to="`/rounds/${r.id}`">{{ longDay(r.day) }}</RouterLink>
          </td>
          <td>{{ r.crew }}</td>
          <td class="number">{{ r.stops }}</td>
          <td class="number">{{ r.jobs }}</td>
          <td class="number">{{ duration(r.minutes) }} of {{ duration(r.hours_minutes) }}</td>
          <td>{{ upperFirst(r.status) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
