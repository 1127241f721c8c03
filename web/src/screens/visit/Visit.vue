<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { api, ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { loadCatalogue, mayRecord, session } from '../../session'
import { kindWords, outcomeWords, roleWords, shortDay, upperFirst } from '../../words'
import {
  type Draft,
  draftOf,
  dropDraft,
  errorAt,
  keepDraft,
  keptDraft,
  newDraft,
  newTreatment,
  placeOf,
  toRequest,
  withDetails,
  worked,
} from './draft'
import SideForm from './SideForm.vue'
import TreatmentForm from './TreatmentForm.vue'

const props = defineProps<{ id: string }>()
const route = useRoute()
/** The visit that is amended, if one is; then nothing is kept on the device. */
const amends = typeof route.query.amend === 'string' ? route.query.amend : ''
const reason = ref('')
/** What the amended visit holds beyond this form; it goes along unchanged. */
let amended: Schemas['NewVisit'] | null = null
const draft = ref<Draft | null>(null)
const resumed = ref(false)
const busy = ref(false)
const refused = ref<ApiProblem | null>(null)
const outcome = ref<Schemas['VisitOutcome'] | null>(null)
const top = ref<HTMLElement>()

const { data, problem, loading, reload } = useLoad(async () => {
  const [catalogue, unit] = await Promise.all([
    loadCatalogue(),
    ask(api.GET('/units/{unit_id}', { params: { path: { unit_id: props.id } } })),
  ])
  if (amends) {
    const record = await ask(api.GET('/visits/{visit_id}', { params: { path: { visit_id: amends } } }))
    amended = record.visit
    draft.value = draftOf(unit, record.visit)
    return { catalogue, unit }
  }
  const kept = keptDraft(unit)
  resumed.value = kept !== null
  draft.value = kept ?? newDraft(unit, session.value?.today ?? '', session.value?.person_id ?? '')
  return { catalogue, unit }
})
/** What the device says when it refuses to keep the draft. */
const unkept = ref('')
watch(
  draft,
  (d) => {
    if (d && !outcome.value && !amends) unkept.value = keepDraft(props.id, d)
  },
  { deep: true },
)

const atWork = computed(() => draft.value && worked(draft.value.outcome))
const anyMissed = computed(() =>
  draft.value?.coils.some((c) => c.on && c.sides.some((s) => s.reached === false)),
)
watch(anyMissed, (missed) => {
  const d = draft.value
  if (d && worked(d.outcome)) d.outcome = missed ? 'partly' : 'done'
})
const why = (coil: Draft['coils'][number] | null, rest: string) =>
  draft.value ? errorAt(refused.value, draft.value, coil, rest) : ''

function startAgain() {
  const unit = data.value?.unit
  if (!unit) return
  dropDraft(props.id)
  refused.value = null
  resumed.value = false
  draft.value = newDraft(unit, session.value?.today ?? '', session.value?.person_id ?? '')
}

/** The fields of a problem that lie below a pointer, as if they stood at the top. */
const below = (pointer: string, p: ApiProblem) =>
  new ApiProblem(
    p.status,
    p.message,
    p.fields.map((f) => ({
      ...f,
      pointer: f.pointer.startsWith(`${pointer}/`) ? f.pointer.slice(pointer.length) : f.pointer,
    })),
    p.requestId,
  )

async function send() {
  const d = draft.value
  if (!d) return
  busy.value = true
  refused.value = null
  try {
    const header = { 'Idempotency-Key': d.key }
    const visit = withDetails(amended, toRequest(props.id, d))
    outcome.value = await ask(
      amends
        ? api.POST('/visits/{visit_id}/amendment', {
            params: { header, path: { visit_id: amends } },
            body: { reason: reason.value, visit },
          })
        : api.POST('/visits', { params: { header }, body: visit }),
    )
    if (!amends) dropDraft(props.id)
  } catch (e) {
    refused.value = amends ? below('/visit', problemOf(e)) : problemOf(e)
    // What is sent after a mend is another request.
    if (refused.value.status === 422 || refused.value.status === 409) d.key = crypto.randomUUID()
  } finally {
    busy.value = false
    await nextTick()
    top.value?.scrollIntoView()
  }
}
</script>

<template>
  <section ref="top" class="screen narrow">
    <LoadState :loading="loading && !data" :problem="problem" what="the visit form" @retry="reload" />

    <template v-if="outcome && data">
      <h1>Recorded: {{ data.unit.tag }}.</h1>
      <p v-if="!outcome.clocks.length">Due dates unchanged.</p>
      <ul class="plain">
        <li v-for="c in outcome.clocks" :key="c.coil_role + c.kind">
          <strong
            >{{ upperFirst(roleWords[c.coil_role]) }}, {{ kindWords[c.kind] }}: next due
            {{ shortDay(c.due) }}</strong
          >, every {{ c.every_days }} d.
          <span v-if="c.sides.length">Done: {{ c.sides.join(', ') }}. </span>
          <span v-if="c.sides.length && c.still_due?.length" class="over"
            >Stays due: {{ c.still_due.join(', ') }}.</span
          >
          <span v-else-if="!c.sides.length" class="soft">Due date unchanged.</span>
          <div v-if="c.proposed_days">Proposed from what was found: every {{ c.proposed_days }} d.</div>
        </li>
      </ul>
      <div class="actions">
        <RouterLink class="button" :to="`/units/${id}`">See the unit</RouterLink>
        <RouterLink class="button" to="/portfolio">Portfolio</RouterLink>
      </div>
    </template>

    <p v-else-if="data && !mayRecord()" class="notice">Your role may look at visits but not record them.</p>

    <form v-else-if="data && draft" novalidate @submit.prevent="send">
      <div class="screen-head">
        <div>
          <p class="soft">
            <RouterLink :to="`/units/${id}`">{{ data.unit.tag }}</RouterLink> · {{ data.unit.class }} ·
            {{ data.unit.site }}, {{ data.unit.placement }}
          </p>
          <h1>{{ amends ? 'Amend a visit' : 'Record a visit' }}</h1>
        </div>
        <p v-if="!amends" class="soft kept">Saved on this device until it is sent.</p>
      </div>
      <p v-if="resumed" class="notice">
        Continuing an earlier draft.
        <button type="button" class="link" @click="startAgain">Start again</button>
      </p>
      <p v-if="unkept" class="notice danger" role="alert">{{ unkept }}</p>
      <ProblemNote :problem="refused" :place="(pointer) => (draft ? placeOf(draft, pointer) : pointer)" />

      <label v-if="amends" class="field"
        ><span class="label">Why it is amended</span>
        <ElInput v-model="reason" maxlength="1000" name="amend-reason" />
        <span class="soft">The present version is kept and can still be read.</span>
        <span v-if="why(null, '/reason')" class="field-error" role="alert">{{ why(null, '/reason') }}</span>
      </label>

      <h2>1. Before anything is opened</h2>
      <details class="cautions" open>
        <summary>Cautions</summary>
        <ol>
          <li v-for="c in data.catalogue.cautions" :key="c">{{ c }}</li>
        </ol>
        <p>
          <strong>{{ data.catalogue.deferral }}</strong>
        </p>
      </details>
      <ElCheckbox v-model="draft.cautions_read" size="large" name="cautions"
        >I read the cautions and followed them.</ElCheckbox
      >
      <span v-if="why(null, '/cautions_read')" class="field-error" role="alert">{{
        why(null, '/cautions_read')
      }}</span>

      <h2>2. When, and how it went</h2>
      <div class="fields">
        <label class="field"
          ><span class="label">Day</span
          ><ElInput v-model="draft.day" type="date" :max="session?.today" size="large" /><span
            v-if="why(null, '/day')"
            class="field-error"
            >{{ why(null, '/day') }}</span
          ></label
        >
        <label class="field"
          ><span class="label">Outcome</span>
          <ElSelect v-model="draft.outcome" size="large" aria-label="Outcome">
            <ElOption v-for="(w, k) in outcomeWords" :key="k" :value="k" :label="w" />
          </ElSelect>
          <span v-if="why(null, '/outcome')" class="field-error" role="alert">{{
            why(null, '/outcome')
          }}</span>
        </label>
      </div>
      <p v-if="!atWork" class="soft">
        Nothing was done: no clock moves. Say what stood in the way in the note.
      </p>

      <template v-if="atWork">
        <template v-for="(coil, ci) in draft.coils" :key="coil.coil_id">
          <div class="coil-head">
            <h2>{{ ci + 3 }}. {{ upperFirst(roleWords[coil.role]) }}</h2>
            <ElCheckbox v-if="draft.coils.length > 1" v-model="coil.on" size="large"
              >worked on, or looked at</ElCheckbox
            >
          </div>
          <template v-if="coil.on">
            <SideForm
              v-for="(side, si) in coil.sides"
              :key="side.surface_id"
              v-model="coil.sides[si]!"
              :soils="data.catalogue.soils"
              :why="(rest: string) => why(coil, `/sides/${si}${rest}`)"
              :side="side.name"
            />
            <span v-if="why(coil, '/sides')" class="field-error" role="alert">{{ why(coil, '/sides') }}</span>
            <TreatmentForm
              v-for="(_, ti) in coil.treatments"
              :key="ti"
              v-model="coil.treatments[ti]!"
              :coil="coil"
              :number="ti + 1"
              :catalogue="data.catalogue"
              :why="(rest: string) => why(coil, `/treatments/${ti}${rest}`)"
              @remove="coil.treatments.splice(ti, 1)"
            />
            <ElButton size="large" @click="coil.treatments.push(newTreatment(coil.has_light))">{{
              coil.treatments.length ? 'Another treatment' : 'Add the work done'
            }}</ElButton>
            <SideForm
              v-for="(side, si) in coil.sides"
              :key="`left ${side.surface_id}`"
              v-model="coil.sides[si]!"
              after
              :soils="data.catalogue.soils"
              :why="(rest: string) => why(coil, `/sides/${si}${rest}`)"
              :side="side.name"
            />
          </template>
        </template>
      </template>

      <h2>Who, and what else</h2>
      <div v-for="(p, i) in draft.people" :key="i" class="fields">
        <label class="field"
          ><span class="label">Person</span>
          <ElSelect v-model="p.person_id" size="large" aria-label="Person">
            <ElOption v-for="who in data.catalogue.people" :key="who.id" :value="who.id" :label="who.name" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Minutes on site</span>
          <ElInputNumber
            v-model="p.minutes"
            size="large"
            :min="1"
            :max="1440"
            :controls="false"
            aria-label="Minutes on site"
          />
        </label>
      </div>
      <span v-if="why(null, '/people')" class="field-error" role="alert">{{ why(null, '/people') }}</span>
      <ElButton @click="draft.people.push({ person_id: '', minutes: null })">Another person</ElButton>
      <label class="field note"
        ><span class="label">Note</span>
        <ElInput v-model="draft.note" type="textarea" :rows="3" maxlength="4000" name="note" />
        <span v-if="why(null, '/note')" class="field-error" role="alert">{{ why(null, '/note') }}</span>
      </label>
      <div class="send">
        <ElButton type="primary" native-type="submit" size="large" :loading="busy">{{
          amends ? 'Send the amended visit' : 'Send the visit'
        }}</ElButton>
      </div>
    </form>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 820px;
}
h2 {
  margin: 22px 0 8px;
  padding-top: 10px;
  border-top: 2px solid var(--ink);
}
.coil-head {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  align-items: end;
}
.coil-head h2 {
  flex: 1;
}
.kept {
  margin: 0;
}
.cautions {
  font-size: 14.5px;
}
.cautions summary {
  font-weight: 600;
  cursor: pointer;
  padding: 6px 0;
}
.cautions ol {
  margin: 4px 0 8px;
  padding-left: 22px;
}
.note {
  margin-top: 14px;
}
.send {
  position: sticky;
  bottom: 0;
  background: var(--paper);
  border-top: 1px solid var(--hairline);
  padding: 10px 0;
}
.send .el-button {
  width: 100%;
  min-height: 50px;
  font-size: 17px;
}
.plain {
  list-style: none;
  padding: 0;
}
.plain li {
  padding: 8px 0;
  border-bottom: 1px solid var(--hairline);
}
.link {
  border: 0;
  background: none;
  color: var(--petrol);
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
:deep(.el-checkbox) {
  white-space: normal;
  height: auto;
  min-height: 40px;
}
</style>
