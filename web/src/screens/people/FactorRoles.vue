<script setup lang="ts">
import { ElCheckbox, ElCheckboxGroup } from 'element-plus'

import { api, ask, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { roleOfPerson } from '../../words'

/** Of which roles the organisation asks a second factor. */
const { data, reload } = useLoad(() => ask(api.GET('/second-factor/roles')))
const { refused, submit } = useSubmit()
const set = (roles: Schemas['Role'][]) =>
  submit(async () => {
    await ask(api.PUT('/second-factor/roles', { body: { roles } }))
    await reload()
  })
</script>

<template>
  <fieldset v-if="data" class="part">
    <legend>Second factor</legend>
    <ProblemNote :problem="refused" />
    <p class="soft">
      Who has one of these roles sets up a second factor before anything else; the others may, under their
      settings.
    </p>
    <ElCheckboxGroup
      :model-value="data.roles"
      aria-label="Roles that need a second factor"
      @update:model-value="(v) => set(v as Schemas['Role'][])"
    >
      <ElCheckbox v-for="(word, role) in roleOfPerson" :key="role" :value="role" :label="word" />
    </ElCheckboxGroup>
  </fieldset>
</template>
