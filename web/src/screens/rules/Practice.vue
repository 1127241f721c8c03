<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask, problemOf, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import UnitField from '../../parts/UnitField.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManageHouse } from '../../session'
import { shortDay } from '../../words'
import RulesNav from './RulesNav.vue'

/** Where practitioners differ: one answer for the organisation, others for a site or a unit, each with its reason. */
const { data, problem, loading, reload } = useLoad(async () => {
  const [practice, sites] = await Promise.all([ask(api.GET('/practice')), ask(api.GET('/sites'))])
  return { practice, sites }
})
const open = ref('')
const form = ref({ choice: '', reason: '', site: '', unit: '' })
const { busy, refused, submit } = useSubmit()
const house = (l: Schemas['PracticeLine']) => l.answers[0]!
const choice = (l: Schemas['PracticeLine'], code: string) => l.question.choices.find((c) => c.code === code)
const changed = (l: Schemas['PracticeLine']) => house(l).choice !== l.question.default
const away = computed(
  () => data.value?.practice.lines.filter((l) => changed(l) || l.answers.length > 1).length ?? 0,
)

/** What each answer would change for a unit that one picks, by answer. */
const trial = ref('')
const effects = ref<Schemas['PracticeEffects'] | null>(null)
const untold = ref('')
watch([trial, open], async ([unit, question]) => {
  effects.value = null
  untold.value = ''
  if (!unit || !question) return
  try {
    effects.value = await ask(
      api.GET('/practice/{question}/effects', { params: { path: { question }, query: { unit_id: unit } } }),
    )
  } catch (e) {
    untold.value = problemOf(e).message
  }
})
const changes = (choice: string) => effects.value?.effects.find((e) => e.choice === choice)?.changes ?? []
const shown = 4
function edit(l: Schemas['PracticeLine']) {
  open.value = open.value === l.question.code ? '' : l.question.code
  form.value = { choice: house(l).choice, reason: '', site: '', unit: '' }
  refused.value = null
}
async function save(l: Schemas['PracticeLine'], back?: Schemas['PracticeAnswer']) {
  await submit(async () => {
    const line = await ask(
      api.PUT('/practice/{question}', {
        params: { path: { question: l.question.code } },
        body: {
          reason: form.value.reason,
          ...(back ? {} : { choice: form.value.choice }),
          ...(back?.scope === 'site' || (!back && form.value.site)
            ? { site_id: back?.scope_id ?? form.value.site }
            : {}),
          ...(back?.scope === 'unit' || (!back && !form.value.site && form.value.unit)
            ? { unit_id: back?.scope_id ?? form.value.unit }
            : {}),
        },
      }),
    )
    const p = data.value!.practice
    p.lines = p.lines.map((x) => (x.question.code === line.question.code ? line : x))
    open.value = ''
  })
}
</script>

<template>
  <section class="screen">
    <div class="screen-head"><h1>House rules</h1></div>
    <RulesNav />
    <LoadState
      :loading="loading && !data"
      :problem="problem"
      what="the questions of practice"
      @retry="reload"
    />
    <template v-if="data">
      <p>
        Practitioners differ on these; each school is right somewhere. {{ away }} of
        {{ data.practice.lines.length }} differ from the standard answer or by site or unit.
        {{ data.practice.deferral }}
      </p>
      <table class="lines">
        <thead>
          <tr>
            <th>Question</th>
            <th>House rule</th>
            <th>Why</th>
            <th>Elsewhere</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="l in data.practice.lines" :key="l.question.code">
            <tr>
              <td>{{ l.question.text }}</td>
              <td>
                <strong v-if="changed(l)">{{ choice(l, house(l).choice)?.text }}</strong>
                <template v-else>{{ choice(l, house(l).choice)?.text }}</template>
                <div v-if="l.question.recorded" class="soft">a visit may say how it was done here</div>
              </td>
              <td class="soft">{{ house(l).reason }}</td>
              <td>
                <div v-for="a in l.answers.slice(1)" :key="a.scope_id">
                  {{ a.name }}: {{ choice(l, a.choice)?.text }}
                  <div class="soft">{{ a.reason }}, since {{ shortDay(a.since) }}</div>
                </div>
              </td>
              <td>
                <button
                  v-if="mayManageHouse()"
                  type="button"
                  class="link"
                  :aria-expanded="open === l.question.code"
                  @click="edit(l)"
                >
                  Change
                </button>
              </td>
            </tr>
            <tr v-if="open === l.question.code">
              <td colspan="5" class="edit">
                <ProblemNote :problem="refused" />
                <fieldset class="schools">
                  <legend class="label">{{ l.question.text }}</legend>
                  <template v-for="c in l.question.choices" :key="c.code">
                    <label>
                      <input v-model="form.choice" type="radio" :name="l.question.code" :value="c.code" />
                      <span
                        ><strong>{{ c.text }}</strong
                        ><template v-if="c.code === l.question.default"> (standard)</template> —
                        {{ c.why }}</span
                      >
                    </label>
                    <ul v-if="effects" class="effects">
                      <li v-if="effects.in_force === c.code" class="soft">In force for {{ effects.tag }}.</li>
                      <li v-else-if="!changes(c.code).length" class="soft">
                        Changes nothing for {{ effects.tag }}.
                      </li>
                      <li v-for="x in changes(c.code).slice(0, shown)" :key="x">{{ x }}</li>
                      <li v-if="changes(c.code).length > shown" class="soft">
                        and {{ changes(c.code).length - shown }} more
                      </li>
                    </ul>
                  </template>
                </fieldset>
                <div class="fields">
                  <UnitField
                    v-model="trial"
                    label="Show what it would change for a unit (tag)"
                    name="trial-unit"
                  />
                </div>
                <p v-if="untold" class="notice danger" role="alert">{{ untold }}</p>
                <div class="fields">
                  <label class="field"
                    ><span class="label">Holds for</span>
                    <select v-model="form.site" class="plain-input">
                      <option value="">the whole organisation, or the unit entered</option>
                      <option v-for="s in data.sites" :key="s.id" :value="s.id">{{ s.name }}</option>
                    </select>
                  </label>
                  <UnitField
                    v-if="!form.site"
                    v-model="form.unit"
                    label="Only this unit (tag)"
                    name="practice-unit"
                  />
                  <label class="field"
                    ><span class="label">Why</span
                    ><input v-model="form.reason" class="plain-input" maxlength="1000" name="practice-reason"
                  /></label>
                </div>
                <div class="actions">
                  <button type="button" class="plain-button primary" :disabled="busy" @click="save(l)">
                    Save the answer
                  </button>
                  <button
                    v-if="changed(l)"
                    type="button"
                    class="plain-button"
                    :disabled="busy"
                    @click="save(l, house(l))"
                  >
                    Restore the standard
                  </button>
                  <button
                    v-for="a in l.answers.slice(1)"
                    :key="a.scope_id"
                    type="button"
                    class="plain-button"
                    :disabled="busy"
                    @click="save(l, a)"
                  >
                    {{ a.name }}: as the organisation
                  </button>
                </div>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <h2>Exceptions made at visits</h2>
      <p v-if="!data.practice.exceptions.length" class="soft">None: every visit kept to the rules.</p>
      <table v-else class="lines">
        <tbody>
          <tr v-for="(e, i) in data.practice.exceptions" :key="i">
            <td class="nowrap">{{ shortDay(e.day) }}</td>
            <td>
              <RouterLink :to="`/visits/${e.visit_id}`">{{ e.tag }}</RouterLink>
            </td>
            <td>{{ e.text }}</td>
            <td>{{ e.reason }}</td>
            <td class="soft">{{ e.by }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </section>
</template>

<style scoped>
.edit {
  background: var(--shade);
  padding: 12px 14px;
}
.schools {
  border: 0;
  padding: 0;
  margin: 0 0 10px;
}
.schools label {
  display: flex;
  gap: 10px;
  min-height: 36px;
  align-items: baseline;
  cursor: pointer;
}
.effects {
  margin: -4px 0 8px 30px;
  padding: 0;
  list-style: none;
}
h2 {
  margin: 24px 0 8px;
}
.link {
  min-height: 32px;
}
</style>
