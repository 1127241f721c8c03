<script setup lang="ts">
import { ref, useId, watch } from 'vue'

import { api, ask, type Schemas } from '../api/client'

/** A unit found by its tag; the model is its id, empty while no unit has that tag. */
const props = defineProps<{ label: string; name: string; tag?: string }>()
const model = defineModel<string>({ required: true })
const text = ref('')
const units = ref<Schemas['SearchHit'][]>([])
const id = useId()
watch(
  () => props.tag,
  (tag) => {
    if (tag) text.value = tag
  },
  { immediate: true },
)
watch(model, (is) => {
  if (!is && text.value === props.tag) text.value = ''
})

/** Answers may come out of turn: only the one to the newest question counts. */
let asked = 0
async function find() {
  const q = text.value.trim()
  const mine = ++asked
  if (q.length > 1) {
    const hits = await ask(api.GET('/search', { params: { query: { q } } }))
    if (mine !== asked) return
    units.value = hits.filter((h) => h.kind === 'unit')
  }
  model.value = units.value.find((u) => u.label.toLowerCase() === q.toLowerCase())?.id ?? ''
}
</script>

<template>
  <label class="field"
    ><span class="label">{{ label }}</span>
    <input v-model="text" class="plain-input" :list="id" :name="name" autocomplete="off" @input="find" />
    <datalist :id="id"><option v-for="u in units" :key="u.id" :value="u.label" /></datalist>
    <span v-if="text.trim().length > 1 && !model" class="soft">No unit has this tag yet.</span>
  </label>
</template>
