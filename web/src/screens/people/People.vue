<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive, ref } from 'vue'

import { api, type ApiProblem, ask, problemOf, type Schemas } from '../../api/client'
import { copy } from '../../parts/copy'
import FieldNote from '../../parts/FieldNote.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { forgetCatalogue } from '../../session'
import { moment, roleOfPerson } from '../../words'
import CrewList from './CrewList.vue'
import FactorRoles from './FactorRoles.vue'
import { useSubmit } from '../../parts/useSubmit'

const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/people')))
const sites = useLoad(() => ask(api.GET('/sites')))
const { busy, refused, submit } = useSubmit()
const link = ref<Schemas['PersonAdded'] | null>(null)

const fresh = () => ({
  name: '',
  signs_in: true,
  login: '',
  role: 'technician' as Schemas['Role'],
  all_sites: true,
  site_ids: [] as string[],
})
const form = reactive(fresh())
async function add() {
  link.value = null
  await submit(async () => {
    const added = await ask(
      api.POST('/people', {
        body: {
          name: form.name,
          login: form.signs_in ? form.login : undefined,
          role: form.signs_in ? form.role : undefined,
          all_sites: form.all_sites,
          site_ids: form.site_ids,
        },
      }),
    )
    link.value = added.link ? added : null
    Object.assign(form, fresh())
    forgetCatalogue()
    await reload()
  })
}

const editing = ref<Schemas['PersonLine'] | null>(null)
const editRefused = ref<ApiProblem | null>(null)
function edit(p: Schemas['PersonLine']) {
  editing.value = copy(p)
  editRefused.value = null
}
async function save() {
  const p = editing.value
  if (!p) return
  editRefused.value = null
  try {
    await ask(
      api.PUT('/people/{person_id}', {
        params: { path: { person_id: p.person_id } },
        body: {
          version: p.version,
          name: p.name,
          role: p.role,
          all_sites: p.all_sites,
          site_ids: p.site_ids,
          disabled: p.disabled,
        },
      }),
    )
    editing.value = null
    forgetCatalogue()
    await reload()
  } catch (e) {
    editRefused.value = problemOf(e)
  }
}
async function makeLink(p: Schemas['PersonLine']) {
  await submit(async () => {
    link.value = await ask(
      api.POST('/people/{person_id}/link', { params: { path: { person_id: p.person_id } } }),
    )
  })
}
const dropping = ref('')
async function dropFactor(p: Schemas['PersonLine']) {
  await submit(async () => {
    await ask(
      api.DELETE('/people/{person_id}/second-factor', { params: { path: { person_id: p.person_id } } }),
    )
    dropping.value = ''
    await reload()
  })
}
const siteName = (id: string) => sites.data.value?.find((s) => s.id === id)?.name ?? '…'
const state = (p: Schemas['PersonLine']) =>
  !p.signs_in ? 'does not sign in' : p.disabled ? 'locked out' : p.has_password ? 'signs in' : 'invited'
</script>

<template>
  <section class="screen">
    <div class="screen-head">
      <h1>People and crews</h1>
      <RouterLink class="button" to="/links">Links without an account, and mails</RouterLink>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the people" @retry="reload" />
    <template v-if="data">
      <div v-if="link" class="notice" role="status">
        <strong>A link for {{ link.person.name }}</strong> to choose a password. It is shown once; give it to
        them yourself.
        <code class="link-text">{{ link.link }}</code>
        <span class="soft">Works once, until {{ link.expires_at ? moment(link.expires_at) : '' }}.</span>
      </div>
      <ProblemNote :problem="refused" />
      <table class="lines">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Login</th>
            <th scope="col">Role</th>
            <th scope="col">Sites</th>
            <th scope="col">State</th>
            <th scope="col"></th>
          </tr>
        </thead>
        <tbody v-for="p in data" :key="p.person_id">
          <tr>
            <td>{{ p.name }}</td>
            <td>{{ p.login ?? '' }}</td>
            <td>{{ p.role ? roleOfPerson[p.role] : '' }}</td>
            <td>{{ !p.signs_in ? '' : p.all_sites ? 'all' : p.site_ids.map(siteName).join(', ') }}</td>
            <td :class="{ over: p.disabled }">{{ state(p) }}</td>
            <td class="nowrap">
              <ElButton size="small" :aria-label="`Change ${p.name}`" @click="edit(p)">Change</ElButton>
              <ElButton
                v-if="p.signs_in && !p.disabled"
                size="small"
                :aria-label="`Password link for ${p.name}`"
                @click="makeLink(p)"
                >Password link</ElButton
              >
              <template v-if="p.has_factor">
                <ElButton
                  v-if="dropping !== p.person_id"
                  size="small"
                  :aria-label="`Second factor of ${p.name} is lost`"
                  @click="dropping = p.person_id"
                  >Factor lost</ElButton
                >
                <template v-else>
                  <span class="sure">Be sure it is them.</span>
                  <ElButton size="small" type="danger" @click="dropFactor(p)">Take it away</ElButton>
                  <ElButton size="small" @click="dropping = ''">Leave it</ElButton>
                </template>
              </template>
            </td>
          </tr>
          <tr v-if="editing?.person_id === p.person_id">
            <td colspan="6">
              <form class="edit" novalidate @submit.prevent="save">
                <ProblemNote :problem="editRefused" />
                <div class="fields">
                  <label class="field"
                    ><span class="label">Name</span
                    ><ElInput v-model="editing.name" maxlength="120" /><FieldNote
                      :problem="editRefused"
                      at="/name"
                  /></label>
                  <template v-if="p.signs_in">
                    <label class="field"
                      ><span class="label">Role</span>
                      <ElSelect v-model="editing.role" aria-label="Role of this person">
                        <ElOption v-for="(w, k) in roleOfPerson" :key="k" :value="k" :label="w" />
                      </ElSelect>
                      <FieldNote :problem="editRefused" at="/role" />
                    </label>
                    <label v-if="!editing.all_sites" class="field"
                      ><span class="label">Only these sites</span>
                      <ElSelect
                        v-model="editing.site_ids"
                        multiple
                        filterable
                        aria-label="Only these sites of this person"
                      >
                        <ElOption
                          v-for="s in sites.data.value ?? []"
                          :key="s.id"
                          :value="s.id"
                          :label="s.name"
                        />
                      </ElSelect>
                      <FieldNote :problem="editRefused" at="/site_ids" />
                    </label>
                  </template>
                </div>
                <template v-if="p.signs_in">
                  <ElCheckbox v-model="editing.all_sites">sees all sites</ElCheckbox>
                  <ElCheckbox v-model="editing.disabled">locked out</ElCheckbox>
                </template>
                <div class="actions">
                  <ElButton type="primary" native-type="submit">Save</ElButton>
                  <ElButton @click="editing = null">Cancel</ElButton>
                </div>
              </form>
            </td>
          </tr>
        </tbody>
      </table>
      <fieldset class="part">
        <legend>Add somebody</legend>
        <form novalidate @submit.prevent="add">
          <div class="fields">
            <label class="field"
              ><span class="label">Name</span
              ><ElInput v-model="form.name" name="name" maxlength="120" /><FieldNote
                :problem="refused"
                at="/name"
            /></label>
            <label v-if="form.signs_in" class="field"
              ><span class="label">Login</span
              ><ElInput v-model="form.login" name="login" maxlength="120" autocomplete="off" /><FieldNote
                :problem="refused"
                at="/login"
            /></label>
            <label v-if="form.signs_in" class="field"
              ><span class="label">Role</span>
              <ElSelect v-model="form.role" aria-label="Role">
                <ElOption v-for="(w, k) in roleOfPerson" :key="k" :value="k" :label="w" />
              </ElSelect>
              <FieldNote :problem="refused" at="/role" />
            </label>
            <label v-if="form.signs_in && !form.all_sites" class="field"
              ><span class="label">Only these sites</span>
              <ElSelect v-model="form.site_ids" multiple filterable aria-label="Only these sites">
                <ElOption v-for="s in sites.data.value ?? []" :key="s.id" :value="s.id" :label="s.name" />
              </ElSelect>
              <FieldNote :problem="refused" at="/site_ids" />
            </label>
          </div>
          <ElCheckbox v-model="form.signs_in">signs in</ElCheckbox>
          <ElCheckbox v-if="form.signs_in" v-model="form.all_sites">sees all sites</ElCheckbox>
          <div>
            <ElButton type="primary" native-type="submit" :loading="busy" :disabled="!form.name.trim()">{{
              form.signs_in ? 'Invite' : 'Add'
            }}</ElButton>
          </div>
        </form>
      </fieldset>
      <FactorRoles />
      <CrewList />
    </template>
  </section>
</template>

<style scoped>
.sure {
  margin: 0 12px;
}
.link-text {
  display: block;
  padding: 6px 0;
  user-select: all;
  overflow-wrap: anywhere;
}
.edit {
  padding: 6px 0 12px;
}
</style>
