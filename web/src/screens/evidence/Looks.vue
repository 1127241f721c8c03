<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { useLoad } from '../../parts/useLoad'
import { session } from '../../session'
import { count, lookKindWords, percent, roleWords, shortDay, upperFirst } from '../../words'

/** Coils of which it pays to know more before a work plan and interval is chosen, the look that is worth most first. */
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/looks')))
const money = (v: number) => v.toFixed(0)
const title = computed(() =>
  data.value?.length
    ? `${upperFirst(count(data.value.length, 'coil is', 'coils are'))} worth a look before ${data.value.length === 1 ? 'its' : 'their'} next clean`
    : 'No look would pay now',
)
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>{{ title }}</h1>
      <div class="actions"><RouterLink class="button" to="/portfolio">Portfolio</RouterLink></div>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the looks" @retry="reload" />
    <template v-if="data">
      <p v-if="!data.length" class="soft">
        No answer of a look would change what is chosen by more than the look costs.
      </p>
      <div v-else class="scroll">
        <table class="lines">
          <thead>
            <tr>
              <th scope="col">Unit</th>
              <th scope="col">Site</th>
              <th scope="col">What would tell most</th>
              <th scope="col" class="number">Likely blocked</th>
              <th scope="col" class="number">Expected to save, {{ session?.currency }} a year</th>
              <th scope="col" class="number">Riding along, less its cost</th>
              <th scope="col" class="number">Trip of its own, less its cost</th>
              <th scope="col">Next due</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in data" :key="l.coil_id">
              <td class="nowrap">
                <RouterLink :to="`/units/${l.unit_id}`">{{ l.tag }}</RouterLink>
                <span class="soft minutes">{{ roleWords[l.role].toLowerCase() }}</span>
              </td>
              <td>{{ l.site }}</td>
              <td>{{ lookKindWords[l.look.kind] }}</td>
              <td class="number">{{ l.blocked_share === undefined ? '–' : percent(l.blocked_share) }}</td>
              <td class="number">{{ money(l.look.saves_year) }}</td>
              <td class="number nowrap">
                <strong>{{ money(l.look.net_riding) }}</strong><span class="soft minutes"
                  >{{ l.look.minutes_riding.toFixed(0) }} min</span
                >
              </td>
              <td class="number nowrap">
                {{ l.look.net_alone > 0 ? money(l.look.net_alone) : 'does not pay'
                }}<span class="soft minutes">{{ l.look.minutes_alone.toFixed(0) }} min</span>
              </td>
              <td class="nowrap">{{ l.due ? shortDay(l.due) : '–' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="soft">
        What the best choice costs now, less what it is expected to cost when it is made after the answer,
        over everything that is believed of soil and rate. A trip is taken as 40 min there and back.
      </p>
    </template>
  </section>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.minutes {
  margin-left: 8px;
}
</style>
