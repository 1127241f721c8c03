<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { ruleWords, tagWords } from '../../api/facts.gen'
import { copy } from '../../parts/copy'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManageHouse } from '../../session'
import { count, shortDay, upperFirst } from '../../words'
import { phases, phaseWords, type Step } from '../led/ledVisit'
import RulesNav from './RulesNav.vue'

/** The order of the work of each class, as versioned data: a change is a new version, earlier ones are kept. */
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/procedures')))
const classId = ref('')
const template = computed(
  () => data.value?.find((t) => t.class_id === classId.value) ?? data.value?.[0] ?? null,
)
const steps = ref<Step[] | null>(null)
const open = ref(-1)
const reason = ref('')
const versions = ref<Schemas['ProcedureTemplate'][]>([])
const { busy, refused, submit } = useSubmit()

function edit() {
  steps.value = copy(template.value!.steps) as Step[]
  reason.value = ''
  open.value = -1
}
function pick(id: string) {
  classId.value = id
  steps.value = null
  versions.value = []
  refused.value = null
}
async function older() {
  versions.value = await ask(
    api.GET('/procedures/{class_id}', { params: { path: { class_id: template.value!.class_id } } }),
  )
}
function move(i: number, by: number) {
  const list = steps.value!
  const [s] = list.splice(i, 1)
  list.splice(i + by, 0, s!)
}
function add(i: number) {
  const phase = steps.value![i]!.phase
  steps.value!.splice(i + 1, 0, { code: `own_${Date.now().toString(36)}`, phase, text: '', why: '' })
  open.value = i + 1
}
async function save() {
  const t = template.value!
  await submit(async () => {
    const saved = await ask(
      api.PUT('/procedures/{class_id}', {
        params: { path: { class_id: t.class_id } },
        body: { version: t.version, steps: steps.value!, reason: reason.value },
      }),
    )
    data.value = data.value!.map((x) => (x.class_id === saved.class_id ? saved : x))
    steps.value = null
  })
}
const at = (i: number) => refused.value?.fields.filter((f) => f.pointer.startsWith(`/steps/${i}/`)) ?? []
const conditionWords = (w: string) =>
  w
    .split('|')
    .map((c) => {
      const name = c.replace('!', '')
      const words = tagWords[name] ?? ruleWords[name] ?? name.replaceAll('_', ' ')
      return c.startsWith('!') ? `not ${words}` : words
    })
    .join(' or ')
const when = (s: Step) => (s.when ?? []).map(conditionWords).join('; ')
const ways = (s: Step) => (s.ways ?? []).map((w) => ({ when: w.when.map(conditionWords).join('; '), way: w }))

/** An own version stays; what the standard has otherwise is shown beside it. */
const standard = computed(() => versions.value.find((v) => v.version === 0))
watch(
  template,
  (t) => {
    if (t && t.version > 0 && !versions.value.length) void older()
  },
  { immediate: true },
)
const differences = computed(() => {
  const [mine, theirs] = [template.value, standard.value]
  if (!mine || !theirs || mine.version === 0) return []
  const have = new Map(mine.steps.map((s) => [s.code, s]))
  const there = new Set(theirs.steps.map((s) => s.code))
  return [
    ...theirs.steps.filter((s) => !have.has(s.code)).map((s) => `The standard also has “${s.text}”.`),
    ...mine.steps.filter((s) => !there.has(s.code)).map((s) => `Only yours has “${s.text}”.`),
    ...theirs.steps
      .filter((s) => have.has(s.code) && have.get(s.code)!.text !== s.text)
      .map((s) => `The standard says “${s.text}”, yours “${have.get(s.code)!.text}”.`),
  ]
})
function takeStandard() {
  steps.value = copy(standard.value!.steps) as Step[]
  reason.value = ''
  open.value = -1
}
</script>

<template>
  <section class="screen">
    <div class="screen-head"><h1>House rules</h1></div>
    <RulesNav />
    <LoadState :loading="loading && !data" :problem="problem" what="the procedures" @retry="reload" />
    <template v-if="data && template">
      <div class="head">
        <label class="field"
          ><span class="label">Class</span>
          <select
            :value="template.class_id"
            class="plain-input"
            @change="pick(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="t in data" :key="t.class_id" :value="t.class_id">{{ t.class }}</option>
          </select>
        </label>
        <p>
          <strong>{{
            template.version === 0 ? 'The standard procedure' : `Version ${template.version}`
          }}</strong><template v-if="template.at"
            >, {{ shortDay(template.at.slice(0, 10)) }} by {{ template.by }}</template
          >: {{ template.reason }}. {{ template.steps.length }} steps,
          {{ template.steps.filter((s) => s.gate).length }} of them gates: skipping one needs a reason.
        </p>
        <div class="actions">
          <button v-if="mayManageHouse() && !steps" type="button" class="plain-button" @click="edit">
            Change it
          </button>
          <button v-if="!versions.length" type="button" class="plain-button" @click="older">
            Earlier versions
          </button>
        </div>
      </div>
      <ul v-if="versions.length">
        <li v-for="v in versions" :key="v.version">
          {{ v.version === 0 ? 'Standard' : `Version ${v.version}`
          }}<template v-if="v.at">, {{ shortDay(v.at.slice(0, 10)) }} by {{ v.by }}</template
          >: {{ v.reason }} ({{ v.steps.length }} steps)
        </li>
      </ul>
      <details v-if="differences.length && !steps" class="beside">
        <summary>Beside the standard procedure: {{ count(differences.length, 'difference') }}</summary>
        <ul>
          <li v-for="d in differences" :key="d">{{ d }}</li>
        </ul>
        <button v-if="mayManageHouse()" type="button" class="plain-button" @click="takeStandard">
          Start from the standard
        </button>
      </details>
      <ProblemNote :problem="refused" />
      <template v-if="!steps">
        <section v-for="phase in phases" :key="phase">
          <h2>{{ phaseWords[phase] }}</h2>
          <table class="lines">
            <tbody>
              <tr v-for="s in template.steps.filter((x) => x.phase === phase)" :key="s.code">
                <td class="gate">{{ s.gate ? 'gate' : '' }}</td>
                <td>
                  {{ s.text }}
                  <div v-for="c in s.cautions ?? []" :key="c" class="soft">Caution: {{ c }}</div>
                  <details v-if="s.ways?.length" class="soft">
                    <summary>Done another way in {{ count(s.ways.length, 'case') }}</summary>
                    <p v-for="(w, i) in ways(s)" :key="i">
                      {{ upperFirst(w.when) }}:
                      {{
                        [w.way.text, ...(w.way.cautions ?? []), w.way.phase && phaseWords[w.way.phase]]
                          .filter(Boolean)
                          .join('. ')
                      }}
                    </p>
                  </details>
                </td>
                <td class="soft">{{ s.why }}</td>
                <td class="soft">{{ when(s) }}</td>
              </tr>
            </tbody>
          </table>
        </section>
      </template>
      <form v-else novalidate @submit.prevent="save">
        <ol class="edit">
          <li v-for="(s, i) in steps" :key="s.code">
            <div class="line">
              <button
                type="button"
                class="text"
                :aria-expanded="open === i"
                @click="open = open === i ? -1 : i"
              >
                <span class="soft">{{ phaseWords[s.phase] }}</span> {{ s.text || 'New step'
                }}{{ s.gate ? ' (gate)' : '' }}
              </button>
              <button
                type="button"
                class="link"
                :disabled="i === 0"
                :aria-label="`Up: ${s.text}`"
                @click="move(i, -1)"
              >
                up
              </button>
              <button
                type="button"
                class="link"
                :disabled="i === steps.length - 1"
                :aria-label="`Down: ${s.text}`"
                @click="move(i, 1)"
              >
                down
              </button>
              <button type="button" class="link" @click="add(i)">add below</button>
              <button type="button" class="link" @click="steps.splice(i, 1)">remove</button>
            </div>
            <span v-for="f in at(i)" :key="f.reason" class="field-error" role="alert">{{ f.reason }}</span>
            <div v-if="open === i" class="fields">
              <label class="field"
                ><span class="label">Step</span><input v-model="s.text" class="plain-input" maxlength="300"
              /></label>
              <label class="field"
                ><span class="label">Why</span><input v-model="s.why" class="plain-input" maxlength="300"
              /></label>
              <label class="field"
                ><span class="label">Phase</span>
                <select v-model="s.phase" class="plain-input">
                  <option v-for="p in phases" :key="p" :value="p">{{ phaseWords[p] }}</option>
                </select>
              </label>
              <label class="field"
                ><span class="label">Photograph</span
                ><input v-model="s.photo" class="plain-input" maxlength="200"
              /></label>
              <label class="check"
                ><input v-model="s.gate" type="checkbox" /> A gate: skipping it needs a reason</label
              >
            </div>
          </li>
        </ol>
        <label class="field why"
          ><span class="label">Why it is changed</span
          ><input v-model="reason" class="plain-input" maxlength="1000" name="procedure-reason"
        /></label>
        <div class="actions">
          <button type="submit" class="plain-button primary" :disabled="busy">Use the new version</button>
          <button type="button" class="plain-button" @click="steps = null">Keep as it is</button>
        </div>
      </form>
    </template>
  </section>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: minmax(220px, 320px) 1fr auto;
  gap: 0 24px;
  align-items: end;
}
@media (max-width: 900px) {
  .head {
    grid-template-columns: 1fr;
  }
}
h2 {
  margin: 16px 0 2px;
}
.gate {
  width: 50px;
  font-weight: 650;
}
.edit {
  list-style: none;
  padding: 0;
}
.edit li {
  border-bottom: 1px solid var(--hairline);
}
.line {
  display: flex;
  gap: 14px;
  align-items: center;
}
.text {
  flex: 1;
  min-height: 40px;
  border: 0;
  background: none;
  text-align: left;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
}
.check {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
}
.why {
  margin-top: 12px;
}
</style>
