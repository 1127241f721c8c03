<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { takeSession } from '../../session'
import { moment } from '../../words'
import { useSubmit } from '../../parts/useSubmit'

const props = defineProps<{ token: string }>()
const router = useRouter()
const { data, problem, loading } = useLoad(() =>
  ask(api.GET('/join/{token}', { params: { path: { token: props.token } } })),
)
const password = ref('')
const { busy, refused, submit } = useSubmit()
async function send() {
  await submit(async () => {
    const session = await ask(
      api.POST('/join/{token}', {
        params: { path: { token: props.token } },
        body: { password: password.value },
      }),
    )
    if (session) takeSession(session)
    await router.push(session ? '/' : '/sign-in')
  })
}
</script>

<template>
  <section class="screen">
    <p v-if="loading" class="soft" role="status">Looking at the link …</p>
    <div v-else-if="problem" class="sheet">
      <h1>This link does not work.</h1>
      <p>
        {{
          problem.status === 404
            ? 'It was used, has expired, or was replaced by a newer one. Ask your manager for another.'
            : problem.message
        }}
      </p>
      <RouterLink to="/sign-in">Sign in</RouterLink>
    </div>
    <form v-else-if="data" class="sheet" novalidate @submit.prevent="send">
      <h1>{{ data.kind === 'invite' ? `Welcome, ${data.person}.` : `A new password for ${data.person}` }}</h1>
      <p class="soft">
        {{ data.organisation }}. You sign in as <strong>{{ data.login }}</strong>. This link works once, until
        {{ moment(data.expires_at) }}.
      </p>
      <ProblemNote :problem="refused" />
      <label class="field"
        ><span class="label">Choose a password</span
        ><ElInput
          v-model="password"
          name="password"
          type="password"
          show-password
          autocomplete="new-password"
          maxlength="128" /><span class="soft">At least 12 characters; several words do well.</span
        ><FieldNote :problem="refused" at="/password"
      /></label>
      <ElButton type="primary" native-type="submit" :loading="busy" :disabled="!password"
        >Set password and sign in</ElButton
      >
    </form>
  </section>
</template>

<style scoped>
.sheet {
  max-width: 420px;
  margin: 10vh auto 0;
}
</style>
