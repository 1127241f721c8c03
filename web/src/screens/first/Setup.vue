<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { takeSession } from '../../session'
import { useSubmit } from '../../parts/useSubmit'

const router = useRouter()
const zones = [...Intl.supportedValuesOf('timeZone'), 'UTC']
const currencies = Intl.supportedValuesOf('currency')
const form = reactive({
  organisation: '',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC',
  currency: 'EUR',
  units: 'metric' as 'metric' | 'us',
  person: '',
  login: '',
  password: '',
})
const { busy, refused, submit } = useSubmit()
async function send() {
  await submit(async () => {
    takeSession(await ask(api.POST('/setup', { body: { ...form } })))
    await router.push('/welcome')
  })
}
</script>

<template>
  <section class="screen">
    <form class="sheet" novalidate @submit.prevent="send">
      <h1>Set up Next Round</h1>
      <p class="soft">
        This database is empty. Name the organisation and its first manager; everything can be changed later.
      </p>
      <ProblemNote :problem="refused" />
      <label class="field"
        ><span class="label">Organisation</span
        ><ElInput v-model="form.organisation" name="organisation" maxlength="120" /><FieldNote
          :problem="refused"
          at="/organisation"
      /></label>
      <div class="fields">
        <label class="field"
          ><span class="label">Time zone</span>
          <ElSelect v-model="form.zone" filterable aria-label="Time zone">
            <ElOption v-for="z in zones" :key="z" :value="z" :label="z" />
          </ElSelect>
          <FieldNote :problem="refused" at="/zone" />
        </label>
        <label class="field"
          ><span class="label">Currency</span>
          <ElSelect v-model="form.currency" filterable aria-label="Currency">
            <ElOption v-for="c in currencies" :key="c" :value="c" :label="c" />
          </ElSelect>
          <FieldNote :problem="refused" at="/currency" />
        </label>
        <label class="field"
          ><span class="label">Units</span>
          <ElSelect v-model="form.units" aria-label="Units">
            <ElOption value="metric" label="metric" />
            <ElOption value="us" label="US" />
          </ElSelect>
        </label>
      </div>
      <label class="field"
        ><span class="label">Your name</span
        ><ElInput v-model="form.person" name="person" maxlength="120" /><FieldNote
          :problem="refused"
          at="/person"
      /></label>
      <label class="field"
        ><span class="label">Login</span
        ><ElInput v-model="form.login" name="login" autocomplete="username" maxlength="120" /><FieldNote
          :problem="refused"
          at="/login"
      /></label>
      <label class="field"
        ><span class="label">Password</span
        ><ElInput
          v-model="form.password"
          name="password"
          type="password"
          show-password
          autocomplete="new-password"
          maxlength="128" /><span class="soft">At least 12 characters; several words do well.</span
        ><FieldNote :problem="refused" at="/password"
      /></label>
      <ElButton type="primary" native-type="submit" :loading="busy">Set up</ElButton>
    </form>
  </section>
</template>

<style scoped>
.sheet {
  max-width: 560px;
  margin: 4vh auto 0;
}
.sheet > .soft {
  margin-bottom: 16px;
}
</style>
