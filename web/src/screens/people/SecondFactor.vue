<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useSubmit } from '../../parts/useSubmit'
import { refreshSession, session } from '../../session'

/** A second factor of one's own: set up with an authenticator app, taken off with the password. */
const { refused, submit } = useSubmit()
const made = ref<Schemas['NewFactor'] | null>(null)
const code = ref('')
const codes = ref<string[]>([])
const password = ref('')

const begin = () =>
  submit(async () => {
    made.value = await ask(api.POST('/second-factor'))
  })
const confirm = () =>
  submit(async () => {
    codes.value = (await ask(api.PUT('/second-factor', { body: { code: code.value } }))).recovery_codes
    made.value = null
    code.value = ''
    await refreshSession()
  })
const remove = () =>
  submit(async () => {
    await ask(api.POST('/second-factor/removal', { body: { password: password.value } }))
    password.value = ''
    codes.value = []
    await refreshSession()
  })
</script>

<template>
  <fieldset class="part">
    <legend>Second factor</legend>
    <ProblemNote :problem="refused" />
    <template v-if="codes.length">
      <p>
        The second factor is on. These recovery codes stand in for the app, each once; they are shown this
        once, so keep them where you find them without your phone.
      </p>
      <ul class="codes">
        <li v-for="c in codes" :key="c">
          <code>{{ c }}</code>
        </li>
      </ul>
    </template>
    <template v-else-if="made">
      <p>Scan this with an authenticator app, or type its secret there. Then type the code the app shows.</p>
      <img :src="made.picture" alt="The secret as a picture for the app" width="220" height="220" />
      <p>
        Secret: <code>{{ made.secret }}</code>
      </p>
      <form novalidate @submit.prevent="confirm">
        <label class="field"
          ><span class="label">Code the app shows now</span
          ><ElInput v-model="code" inputmode="numeric" autocomplete="one-time-code" maxlength="6" /><FieldNote
            :problem="refused"
            at="/code"
        /></label>
        <ElButton type="primary" native-type="submit" :disabled="code.length < 6">Turn it on</ElButton>
      </form>
    </template>
    <template v-else-if="session?.second_factor === 'on'">
      <p>On: besides the password, a code of your authenticator app is asked for.</p>
      <form novalidate @submit.prevent="remove">
        <label class="field"
          ><span class="label">Your password, to take it off</span
          ><ElInput
            v-model="password"
            type="password"
            show-password
            autocomplete="current-password"
            maxlength="128" /><FieldNote :problem="refused" at="/password"
        /></label>
        <ElButton native-type="submit" :disabled="!password">Take it off</ElButton>
      </form>
    </template>
    <template v-else>
      <p>Off. With one, a stolen password alone lets nobody in.</p>
      <ElButton @click="begin">Set up a second factor</ElButton>
    </template>
  </fieldset>
</template>

<style scoped>
.codes {
  columns: 2;
  padding: 0;
  list-style: none;
}
</style>
