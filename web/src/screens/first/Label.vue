<script setup lang="ts">
import { useRouter } from 'vue-router'

import { api, ask } from '../../api/client'
import { useLoad } from '../../parts/useLoad'
import { session } from '../../session'

/** Where a unit's label leads. */
const props = defineProps<{ code: string }>()
const router = useRouter()
const { problem } = useLoad(async () => {
  const unit = await ask(api.GET('/labels/{code}', { params: { path: { code: props.code } } }))
  // Whoever reads a label on site is there to work.
  await router.replace(session.value?.role === 'technician' ? `/units/${unit.id}/work` : `/units/${unit.id}`)
})
</script>

<template>
  <section class="screen">
    <p v-if="problem" class="notice danger" role="alert">
      {{ problem.status === 404 ? 'No unit you may see has this label.' : problem.message }}
      <RouterLink to="/portfolio">Portfolio</RouterLink>
    </p>
    <p v-else class="soft" role="status">Opening the unit …</p>
  </section>
</template>
