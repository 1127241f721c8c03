<script setup lang="ts">
import { reactive, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import UnitField from '../../parts/UnitField.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { moment } from '../../words'

/** Links without an account, and what was mailed. */
const { data, problem, loading, reload } = useLoad(async () => {
  const [links, sites, mails] = await Promise.all([
    ask(api.GET('/links')),
    ask(api.GET('/sites')),
    ask(api.GET('/mails')).catch(() => [] as Schemas['Mail'][]),
  ])
  return { links, sites, mails }
})
const { busy, refused, submit } = useSubmit()
const form = reactive({
  kind: 'site_staff' as 'site_staff' | 'contractor',
  name: '',
  site: '',
  unit: '',
  more: [] as string[],
  days: 90,
})
const made = ref('')
const kinds = { site_staff: 'Site staff', contractor: 'Contractor, a visit to each unit' }

async function add() {
  await submit(async () => {
    const answer = await ask(
      api.POST('/links', {
        body: {
          kind: form.kind,
          name: form.name,
          days: form.days,
          ...(form.kind === 'site_staff' && form.site ? { site_id: form.site } : {}),
          ...(form.kind === 'contractor' && form.unit
            ? { unit_id: form.unit, unit_ids: form.more.filter(Boolean) }
            : {}),
        },
      }),
    )
    made.value = `${window.location.origin}/g/${answer.token}`
    form.name = ''
    await reload()
  })
}
async function end(l: Schemas['GuestLink']) {
  await submit(async () => {
    await ask(api.DELETE('/links/{link_id}', { params: { path: { link_id: l.id } } }))
    await reload()
  })
}
const mailWords: Record<Schemas['Mail']['status'], string> = {
  waiting: 'waiting',
  sending: 'being sent',
  sent: 'sent',
  failed: 'not sent',
  unknown: 'sent or not: unknown',
}
</script>

<template>
  <section class="screen">
    <div class="screen-head"><h1>Links and mails</h1></div>
    <LoadState :loading="loading && !data" :problem="problem" what="the links" @retry="reload" />
    <template v-if="data">
      <ProblemNote :problem="refused" />
      <p>
        A link needs no account. It reaches one site’s light tasks, or one unit’s visit, and nothing else.
      </p>
      <form class="fields" novalidate @submit.prevent="add">
        <label class="field"
          ><span class="label">For</span>
          <select v-model="form.kind" class="plain-input">
            <option v-for="(w, k) in kinds" :key="k" :value="k">{{ w }}</option>
          </select>
        </label>
        <label class="field"
          ><span class="label">Name</span
          ><input
            v-model="form.name"
            class="plain-input"
            maxlength="120"
            name="link-name"
            placeholder="kitchen"
        /></label>
        <label v-if="form.kind === 'site_staff'" class="field"
          ><span class="label">Site</span>
          <select v-model="form.site" class="plain-input">
            <option v-for="s in data.sites" :key="s.id" :value="s.id">{{ s.name }}</option>
          </select>
        </label>
        <template v-else>
          <UnitField v-model="form.unit" label="Unit (tag)" name="link-unit" />
          <UnitField
            v-for="(_, i) in form.more"
            :key="i"
            v-model="form.more[i]!"
            :label="`Another unit (${i + 2})`"
            :name="`link-unit-${i + 2}`"
          />
          <button type="button" class="link" @click="form.more.push('')">
            One more unit of the same site
          </button>
        </template>
        <label class="field"
          ><span class="label">Days it works</span
          ><input v-model.number="form.days" type="number" min="1" max="366" class="plain-input"
        /></label>
        <div class="field">
          <span class="label">&nbsp;</span
          ><button type="submit" class="plain-button" :disabled="busy">Make the link</button>
        </div>
      </form>
      <p v-if="made" class="notice" role="status">
        Shown this once: <code>{{ made }}</code>
      </p>
      <table class="lines">
        <thead>
          <tr>
            <th>For</th>
            <th>Name</th>
            <th>Reaches</th>
            <th>Works until</th>
            <th>State</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in data.links" :key="l.id">
            <td>{{ kinds[l.kind] }}</td>
            <td>{{ l.name }}</td>
            <td>{{ l.site }}{{ l.tag ? `, ${l.tag}` : '' }}</td>
            <td class="nowrap">{{ moment(l.expires_at) }}</td>
            <td>{{ l.state }}</td>
            <td>
              <button v-if="l.state === 'open'" type="button" class="link" @click="end(l)">End it</button>
            </td>
          </tr>
        </tbody>
      </table>
      <h2>Mails</h2>
      <p v-if="!data.mails.length" class="soft">None yet.</p>
      <table v-else class="lines">
        <tbody>
          <tr v-for="m in data.mails" :key="m.id">
            <td class="nowrap">{{ moment(m.at) }}</td>
            <td>{{ m.to }}</td>
            <td>
              <RouterLink v-if="m.visit_id" :to="`/visits/${m.visit_id}/report`">{{ m.subject }}</RouterLink>
            </td>
            <td :class="{ over: m.status === 'failed' || m.status === 'unknown' }">
              {{ mailWords[m.status] }}
            </td>
            <td class="soft">{{ m.error }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 24px 0 8px;
}
form {
  grid-template-columns: repeat(auto-fit, minmax(160px, 1fr));
}
code {
  overflow-wrap: anywhere;
}
</style>
