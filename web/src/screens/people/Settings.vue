<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { ref } from 'vue'

import { api, ask, problemOf, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import OwnSessions from './OwnSessions.vue'
import SecondFactor from './SecondFactor.vue'
import { session, takeSession } from '../../session'
import { useSubmit } from '../../parts/useSubmit'

const { refused, submit } = useSubmit()
const done = ref('')
const current = ref('')
const password = ref('')
async function prefer(change: Partial<Schemas['Preferences']>) {
  const s = session.value
  if (!s) return
  await submit(async () => {
    takeSession(
      await ask(api.PUT('/session/preferences', { body: { units: s.units, theme: s.theme, ...change } })),
    )
    done.value = 'Kept.'
  })
}
async function change() {
  refused.value = null
  done.value = ''
  try {
    await ask(api.PUT('/session/password', { body: { current: current.value, password: password.value } }))
    current.value = password.value = ''
    done.value = 'The password is changed. Other devices have to sign in again.'
  } catch (e) {
    refused.value = problemOf(e)
  }
}
</script>

<template>
  <section v-if="session" class="screen narrow">
    <div class="screen-head"><h1>Your settings</h1></div>
    <p v-if="done" class="notice" role="status">{{ done }}</p>
    <ProblemNote :problem="refused" />
    <div class="fields">
      <label class="field"
        ><span class="label">Figures</span>
        <ElSelect
          :model-value="session.units"
          aria-label="Figures"
          @update:model-value="(v: 'metric' | 'us') => prefer({ units: v })"
        >
          <ElOption value="metric" label="metric: m, kg, kW, L" />
          <ElOption value="us" label="US: ft, lb, tons, US gal" />
        </ElSelect>
      </label>
      <label class="field"
        ><span class="label">Theme</span>
        <ElSelect
          :model-value="session.theme"
          aria-label="Theme"
          @update:model-value="(v: 'auto' | 'light' | 'dark') => prefer({ theme: v })"
        >
          <ElOption value="auto" label="as the device" />
          <ElOption value="light" label="light" />
          <ElOption value="dark" label="dark (plant room)" />
        </ElSelect>
      </label>
    </div>
    <fieldset class="part">
      <legend>Password</legend>
      <form novalidate @submit.prevent="change">
        <div class="fields">
          <label class="field"
            ><span class="label">Current password</span
            ><ElInput
              v-model="current"
              type="password"
              show-password
              autocomplete="current-password"
              maxlength="128" /><FieldNote :problem="refused" at="/current"
          /></label>
          <label class="field"
            ><span class="label">New password</span
            ><ElInput
              v-model="password"
              type="password"
              show-password
              autocomplete="new-password"
              maxlength="128" /><FieldNote :problem="refused" at="/password"
          /></label>
        </div>
        <ElButton native-type="submit" :disabled="!current || !password">Change the password</ElButton>
      </form>
    </fieldset>
    <SecondFactor />
    <OwnSessions />
  </section>
</template>

<style scoped>
.narrow {
  max-width: 640px;
}
</style>
