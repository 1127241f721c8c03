<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { compute } from '../../core'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayRecord } from '../../session'
import { gradeNames, shortDay } from '../../words'

/** Faces of known blocked share are graded by eye; what comes out is how far from the truth somebody sees. */
const howMany = 12
const seed = ref(Math.floor(Math.random() * 2147483647))
const number = ref(0)
const face = ref<Schemas['DrawnFace'] | null>(null)
const said = ref<number[]>([])
const last = ref<{ said: number; face: Schemas['DrawnFace'] } | null>(null)
const estimate = ref<Schemas['GraderEstimate'] | null>(null)
const { refused, submit } = useSubmit()
const { data: graders, problem, loading, reload } = useLoad(() => ask(api.GET('/graders')))

watch(
  [seed, number],
  async () => {
    face.value = await compute<Schemas['DrawnFace']>('face', { seed: seed.value, number: number.value })
  },
  { immediate: true },
)
const done = computed(() => said.value.length >= howMany)

async function say(g: number) {
  if (!face.value || done.value) return
  last.value = { said: g, face: face.value }
  said.value = [...said.value, g]
  if (said.value.length < howMany) {
    number.value++
    return
  }
  await submit(async () => {
    if (!mayRecord()) return
    const line = await ask(api.POST('/graders', { body: { seed: seed.value, said: said.value } }))
    estimate.value = line.estimate
    await reload()
  })
}
function again() {
  seed.value = Math.floor(Math.random() * 2147483647)
  number.value = 0
  said.value = []
  last.value = null
  estimate.value = null
}
const sees = (e: Schemas['GraderEstimate']) => {
  const more = Math.round(100 * (Math.exp(e.offset) - 1))
  const range = Math.round(100 * e.offset_sd)
  return more === 0
    ? `sees as much soil as there is (± ${range} %)`
    : `sees ${Math.abs(more)} % ${more > 0 ? 'more' : 'less'} soil than there is (± ${range} %)`
}
</script>

<template>
  <div class="bench-two">
    <div>
      <p v-if="!done">Face {{ said.length + 1 }} of {{ howMany }}: how much of it is blocked?</p>
      <svg
        v-if="face && !done"
        :viewBox="`0 0 ${face.columns} ${face.rows}`"
        role="img"
        aria-label="A drawn coil face"
        class="face"
      >
        <rect :width="face.columns" :height="face.rows" fill="var(--sheet)" />
        <template v-for="(closed, i) in face.closed" :key="i">
          <rect
            v-if="closed"
            :x="i % face.columns"
            :y="Math.floor(i / face.columns)"
            width="1.02"
            height="1.02"
            fill="var(--silt-4)"
          />
        </template>
        <path
          :d="Array.from({ length: face.columns - 1 }, (_, i) => `M${i + 1} 0V${face!.rows}`).join('')"
          stroke="var(--fin)"
          stroke-width="0.06"
        />
      </svg>
      <div v-if="!done" class="grades" role="group" aria-label="Your grade">
        <button v-for="(word, g) in gradeNames" :key="g" type="button" :class="`g${g}`" @click="say(g)">
          <strong>{{ g }}</strong>{{ word }}
        </button>
      </div>
      <p v-if="last" role="status">
        It was {{ Math.round(last.face.share * 100) }} % blocked, grade {{ last.face.grade }}; you said
        {{ last.said }}{{ last.said === last.face.grade ? ': right.' : '.' }}
      </p>
      <ProblemNote :problem="refused" />
      <template v-if="done">
        <p v-if="estimate" class="bench-answer">You {{ sees(estimate).replace('sees', 'see') }}.</p>
        <p v-if="estimate">
          Scatter σ {{ estimate.sigma.toFixed(2) }} ± {{ estimate.sigma_sd.toFixed(2) }} on the logarithm of
          load; {{ Math.round(100 * estimate.exact) }} % graded exactly, over {{ estimate.n }} faces.
          <template v-if="!estimate.enough"
            >Until twelve faces the usual scatter is the better guess.</template
          >
        </p>
        <button type="button" class="plain-button" @click="again">Another twelve</button>
      </template>
    </div>
    <div>
      <h2>Those who practised</h2>
      <LoadState :loading="loading && !graders" :problem="problem" what="the graders" @retry="reload" />
      <p v-if="graders && !graders.length" class="soft">Nobody yet.</p>
      <table v-else-if="graders" class="lines">
        <thead>
          <tr>
            <th>Person</th>
            <th>Sees</th>
            <th class="number">σ</th>
            <th class="number">Faces</th>
            <th>Last</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="g in graders" :key="g.person_id">
            <td>{{ g.person }}</td>
            <td>{{ sees(g.estimate) }}</td>
            <td class="number">{{ g.estimate.sigma.toFixed(2) }} ± {{ g.estimate.sigma_sd.toFixed(2) }}</td>
            <td class="number">{{ g.estimate.n }}</td>
            <td class="nowrap">{{ shortDay(g.at.slice(0, 10)) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.face {
  width: 100%;
  border: 1px solid var(--edge);
}
.grades {
  display: grid;
  grid-template-columns: repeat(6, 1fr);
  gap: 3px;
  margin: 10px 0;
}
.grades button {
  min-height: 54px;
  border: 0;
  font: inherit;
  font-size: 13px;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  cursor: pointer;
}
</style>
