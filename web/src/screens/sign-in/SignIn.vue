<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { type ApiProblem, problemOf } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { signIn } from '../../session'

const route = useRoute()
const router = useRouter()
const login = ref('')
const password = ref('')
/** Asked for once the password was right and a second factor is on. */
const code = ref('')
const asked = ref(false)
const busy = ref(false)
const problem = ref<ApiProblem | null>(null)

async function send() {
  busy.value = true
  problem.value = null
  try {
    await signIn(login.value, password.value, code.value)
    const to = typeof route.query.to === 'string' && route.query.to.startsWith('/') ? route.query.to : '/'
    await router.push(to)
  } catch (e) {
    const p = problemOf(e)
    const first = !asked.value && p.fields.some((f) => f.pointer === '/code')
    if (first) asked.value = true
    problem.value = first ? null : p
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section class="screen">
    <form class="sheet" novalidate @submit.prevent="send">
      <h1>Next Round</h1>
      <p class="soft">Which coils to clean next, how, and why.</p>
      <p v-if="asked && problem?.status === 401" class="notice danger" role="alert">
        The code is not right, or was used. The app shows a new one every half minute.
      </p>
      <ProblemNote v-else :problem="problem" />
      <label class="field"
        ><span class="label">Login</span>
        <ElInput v-model="login" name="login" autocomplete="username" autofocus />
      </label>
      <label class="field"
        ><span class="label">Password</span>
        <ElInput
          v-model="password"
          name="password"
          type="password"
          show-password
          autocomplete="current-password"
        />
      </label>
      <label v-if="asked" class="field"
        ><span class="label">Code of your authenticator app, or a recovery code</span>
        <ElInput v-model="code" name="code" autocomplete="one-time-code" maxlength="40" />
      </label>
      <ElButton
        type="primary"
        native-type="submit"
        :loading="busy"
        :disabled="!login || !password || (asked && !code)"
        >Sign in</ElButton
      >
    </form>
  </section>
</template>

<style scoped>
.sheet {
  max-width: 340px;
  margin: 12vh auto 0;
}
h1 {
  margin-bottom: 4px;
}
.sheet > .soft {
  margin-bottom: 20px;
}
</style>
