<script setup lang="ts">
import { reactive } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import SureButton from '../../parts/SureButton.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManage, session } from '../../session'
import { shortDay } from '../../words'

/** For which times a site's log of call-outs is complete: only then does it say anything that nobody called. */
defineProps<{ logs: Schemas['CallLogSpan'][] }>()
const emit = defineEmits<{ changed: [] }>()

const sites = useLoad(() => ask(api.GET('/sites')))
const form = reactive({ site: '', from: '', to: session.value?.today ?? '' })
const { busy, refused, submit } = useSubmit()

async function declare() {
  await submit(async () => {
    await ask(
      api.POST('/sites/{site_id}/call-log', {
        params: { path: { site_id: form.site } },
        body: { from: form.from, to: form.to },
      }),
    )
    form.site = ''
    emit('changed')
  })
}
async function withdraw(l: Schemas['CallLogSpan']) {
  await submit(async () => {
    await ask(api.DELETE('/call-logs/{call_log_id}', { params: { path: { call_log_id: l.id } } }))
    emit('changed')
  })
}
</script>

<template>
  <section aria-label="When the log is complete">
    <h2>When the log is complete</h2>
    <ProblemNote v-if="refused && !refused.fields.length" :problem="refused" />
    <p v-if="!logs.length" class="soft">
      Nowhere yet. Where every call-out of some time was put down, say so: then it counts that nobody called.
    </p>
    <ul class="ruled">
      <li v-for="l in logs" :key="l.id">
        <strong>{{ l.site }}</strong>: every call-out from {{ shortDay(l.from) }} to {{ shortDay(l.to) }}
        <span class="soft">{{ l.by }}</span>
        <SureButton
          v-if="mayManage()"
          label="Take back"
          look="link"
          ask="Erase that it is complete?"
          @sure="withdraw(l)"
        />
      </li>
    </ul>
    <form v-if="mayManage()" novalidate @submit.prevent="declare">
      <div class="fields">
        <label class="field"
          ><span class="label">Site</span>
          <select v-model="form.site" class="plain-input" name="log-site">
            <option value="">choose</option>
            <option v-for="s in sites.data.value ?? []" :key="s.id" :value="s.id">{{ s.name }}</option>
          </select>
        </label>
        <label class="field"
          ><span class="label">Complete from</span
          ><input v-model="form.from" type="date" class="plain-input" name="log-from" /><FieldNote
            :problem="refused"
            at="/from"
          />
        </label>
        <label class="field"
          ><span class="label">to</span
          ><input
            v-model="form.to"
            type="date"
            class="plain-input"
            name="log-to"
            :max="session?.today"
          /><FieldNote :problem="refused" at="/to" />
        </label>
      </div>
      <button type="submit" class="plain-button" :disabled="busy || !form.site || !form.from || !form.to">
        Declare it complete
      </button>
    </form>
  </section>
</template>

<style scoped>
h2 {
  margin: 22px 0 8px;
}
</style>
