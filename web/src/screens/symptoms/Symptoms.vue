<script setup lang="ts">
import { reactive, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import UnitField from '../../parts/UnitField.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManage, mayRecord, session } from '../../session'
import { shortDay, symptomWords } from '../../words'

/** Complaints: the coil's forecast soil is asked for first. */
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/symptoms')))
const { busy, refused, submit } = useSubmit()
const statusWords = {
  open: 'Open',
  brought_forward: 'Clean brought forward',
  elsewhere: 'Not the coil: look elsewhere',
  closed: 'Closed',
}
const open = ref('')
const form = reactive({ note: '', day: session.value?.today ?? '', cause: null as boolean | null })
const fresh = reactive({ kind: 'not_cold' as Schemas['SymptomKind'], unit: '', note: '', reporter: '' })

async function report() {
  await submit(async () => {
    await ask(
      api.POST('/symptoms', {
        body: {
          kind: fresh.kind,
          ...(fresh.unit ? { unit_id: fresh.unit } : {}),
          ...(fresh.note ? { note: fresh.note } : {}),
          ...(fresh.reporter ? { reporter: fresh.reporter } : {}),
        },
      }),
    )
    fresh.note = ''
    await reload()
  })
}
function take(s: Schemas['Symptom']) {
  open.value = open.value === s.id ? '' : s.id
  form.note = ''
  form.cause = null
  refused.value = null
}
async function decide(s: Schemas['Symptom'], decision: Schemas['Triage']['decision']) {
  await submit(async () => {
    await ask(
      api.POST('/symptoms/{symptom_id}/triage', {
        params: { path: { symptom_id: s.id } },
        body: {
          decision,
          note: form.note,
          ...(decision === 'bring_forward' ? { day: form.day } : {}),
          ...(decision === 'close' && form.cause !== null ? { coil_was_cause: form.cause } : {}),
        },
      }),
    )
    open.value = ''
    await reload()
  })
}
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>Symptoms</h1>
      <div class="actions"><RouterLink class="button" to="/call-outs">Call-outs</RouterLink></div>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the symptoms" @retry="reload" />
    <ProblemNote :problem="refused" />
    <template v-if="data">
      <p v-if="!data.length" class="soft">Nothing was reported.</p>
      <ul class="ruled">
        <li v-for="s in data" :key="s.id">
          <div class="top">
            <strong>{{ symptomWords[s.kind] }}</strong>
            <RouterLink v-if="s.unit_id" :to="`/units/${s.unit_id}`">{{ s.tag }}</RouterLink>
            <span>{{ s.site }}</span>
            <span class="soft"
              >{{ shortDay(s.day) }}{{ s.reporter ? `, ${s.reporter}` : ''
              }}{{ s.link ? ` (by link, ${s.link})` : '' }}</span
            >
            <span :class="{ over: s.status === 'open' }">{{ statusWords[s.status] }}</span>
          </div>
          <p v-if="s.note">“{{ s.note }}”</p>
          <p v-if="s.status === 'open'">
            <strong>{{ s.advice }}</strong>
          </p>
          <p v-if="s.triage_note" class="soft">{{ s.triage_note }}</p>
          <p v-if="s.coil_was_cause !== undefined">
            {{ s.coil_was_cause ? 'It was the coil.' : 'It was not the coil.' }}
          </p>
          <div v-if="s.photos.length" class="photos">
            <img v-for="p in s.photos" :key="p.id" :src="`/api/v1/attachments/${p.id}`" :alt="p.name" />
          </div>
          <button
            v-if="mayManage() && s.status !== 'closed'"
            type="button"
            class="link"
            :aria-expanded="open === s.id"
            @click="take(s)"
          >
            Decide
          </button>
          <div v-if="open === s.id" class="decide">
            <div class="fields">
              <label class="field"
                ><span class="label">Note</span
                ><input v-model="form.note" class="plain-input" maxlength="1000" name="triage-note"
              /></label>
              <label class="field"
                ><span class="label">Clean by</span
                ><input v-model="form.day" type="date" class="plain-input" :min="session?.today"
              /></label>
              <label class="field"
                ><span class="label">Was it the coil?</span>
                <select v-model="form.cause" class="plain-input">
                  <option :value="null">not known yet</option>
                  <option :value="true">yes</option>
                  <option :value="false">no</option>
                </select>
              </label>
            </div>
            <div class="actions">
              <button
                v-if="s.unit_id"
                type="button"
                class="plain-button primary"
                :disabled="busy"
                @click="decide(s, 'bring_forward')"
              >
                Bring the clean forward
              </button>
              <button type="button" class="plain-button" :disabled="busy" @click="decide(s, 'elsewhere')">
                Look elsewhere
              </button>
              <button type="button" class="plain-button" :disabled="busy" @click="decide(s, 'close')">
                Close it
              </button>
            </div>
          </div>
        </li>
      </ul>
      <form v-if="mayRecord()" novalidate @submit.prevent="report">
        <h2>Report one</h2>
        <div class="fields">
          <label class="field"
            ><span class="label">What</span>
            <select v-model="fresh.kind" class="plain-input">
              <option v-for="(w, k) in symptomWords" :key="k" :value="k">{{ w }}</option>
            </select>
          </label>
          <UnitField v-model="fresh.unit" label="Unit (tag)" name="symptom-unit" />
          <label class="field"
            ><span class="label">What was seen or heard</span
            ><input v-model="fresh.note" class="plain-input" maxlength="1000"
          /></label>
          <label class="field"
            ><span class="label">Reported by</span
            ><input v-model="fresh.reporter" class="plain-input" maxlength="120"
          /></label>
        </div>
        <button type="submit" class="plain-button" :disabled="busy">Report it</button>
      </form>
    </template>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: baseline;
}
.photos img {
  height: 120px;
  margin-right: 8px;
}
.decide {
  background: var(--shade);
  padding: 12px 14px;
  margin-top: 6px;
}
h2 {
  margin: 22px 0 8px;
}
.link {
  min-height: 36px;
}
</style>
