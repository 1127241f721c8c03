<script setup lang="ts">
import { ElButton } from 'element-plus'

import { api, ask, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { forgetCatalogue } from '../../session'
import { upperFirst } from '../../words'

/** What a release brings that the organisation does not have yet: each is accepted into the house rules or refused. */
const emit = defineEmits<{ accepted: [] }>()
const { data } = useLoad(() => ask(api.GET('/new-defaults')))
const { busy, refused, submit } = useSubmit()
const kinds: Record<Schemas['NewDefaultCatalogue'], string> = {
  classes: 'equipment class',
  soils: 'soil',
  factors: 'site factor',
  methods: 'method',
  cleaners: 'cleaner',
}
const answer = (d: Schemas['NewDefault'], accept: boolean) =>
  submit(async () => {
    data.value = await ask(
      api.POST('/new-defaults', { body: { catalogue: d.catalogue, code: d.code, accept } }),
    )
    if (accept) {
      forgetCatalogue()
      emit('accepted')
    }
  })
</script>

<template>
  <section v-if="data?.length" class="fresh" aria-labelledby="new-defaults">
    <h2 id="new-defaults">New defaults</h2>
    <p>This version brings these. Accept each into your house rules, or refuse it.</p>
    <ProblemNote :problem="refused" />
    <ul>
      <li v-for="d in data" :key="d.catalogue + d.code">
        <span
          ><strong>{{ d.name }}</strong
          >, {{ kinds[d.catalogue] }}. <span class="soft">{{ upperFirst(d.note) }}</span></span
        >
        <span class="nowrap">
          <ElButton size="small" :disabled="busy" :aria-label="`Accept ${d.name}`" @click="answer(d, true)"
            >Accept</ElButton
          >
          <ElButton
            size="small"
            text
            :disabled="busy"
            :aria-label="`Refuse ${d.name}`"
            @click="answer(d, false)"
            >Refuse</ElButton
          >
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.fresh {
  border-left: 3px solid var(--petrol);
  padding: 2px 0 2px 14px;
  margin-bottom: 18px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 16px;
  justify-content: space-between;
  align-items: baseline;
  padding: 4px 0;
  border-top: 1px solid var(--hairline);
}
</style>
