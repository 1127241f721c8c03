<script setup lang="ts">
import { ref } from 'vue'

import { expired, problemOf } from '../api/client'
import { flush } from '../offline/outbox'
import { session, signIn } from '../session'

/** The session has ended on the server: signing in again here, where one is, loses nothing. */
const password = ref('')
const code = ref('')
const asked = ref(false)
const wrong = ref('')
async function again() {
  wrong.value = ''
  try {
    await signIn(session.value?.login ?? '', password.value, code.value)
    expired.value = false
    password.value = ''
    void flush()
  } catch (e) {
    const p = problemOf(e)
    if (p.fields.some((f) => f.pointer === '/code')) asked.value = true
    wrong.value = p.message
  }
}
</script>

<template>
  <form v-if="expired && session" class="notice again no-print" @submit.prevent="again">
    <p>
      <strong>Your session has ended.</strong> Everything you did is kept here. Sign in again as
      {{ session.login }} to send it.
    </p>
    <label class="field"
      ><span class="label">Password</span
      ><input
        v-model="password"
        class="plain-input"
        type="password"
        name="again"
        autocomplete="current-password"
    /></label>
    <label v-if="asked" class="field"
      ><span class="label">Code</span
      ><input
        v-model="code"
        class="plain-input"
        inputmode="numeric"
        name="again-code"
        autocomplete="one-time-code"
    /></label>
    <p v-if="wrong" class="field-error" role="alert">{{ wrong }}</p>
    <button type="submit" class="big" :disabled="!password">Sign in again</button>
  </form>
</template>
