<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask } from '../../api/client'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'

/** Portfolio addresses kept under a name. */
const route = useRoute()
const router = useRouter()
const { data, reload } = useLoad(() => ask(api.GET('/saved-filters')))
const naming = ref(false)
const name = ref('')
const { refused, submit } = useSubmit()
const here = computed(() => new URLSearchParams(route.query as Record<string, string>).toString())

async function save() {
  await submit(async () => {
    await ask(api.POST('/saved-filters', { body: { name: name.value, query: here.value } }))
    naming.value = false
    name.value = ''
    await reload()
  })
}
async function remove(id: string) {
  await ask(api.DELETE('/saved-filters/{filter_id}', { params: { path: { filter_id: id } } }))
  await reload()
}
const open = (query: string) => router.replace({ query: Object.fromEntries(new URLSearchParams(query)) })
</script>

<template>
  <span v-for="f in data ?? []" :key="f.id" class="kept">
    <button type="button" class="link" :aria-current="f.query === here || undefined" @click="open(f.query)">
      {{ f.name }}
    </button>
    <button type="button" class="gone" :aria-label="`Delete the filter ${f.name}`" @click="remove(f.id)">
      ×
    </button>
  </span>
  <form v-if="naming" class="name" @submit.prevent="save">
    <ElInput
      v-model="name"
      size="small"
      placeholder="Name of this filter"
      aria-label="Name of this filter"
      maxlength="80"
    />
    <ElButton size="small" native-type="submit" :disabled="!name.trim()">Keep</ElButton>
    <span v-if="refused" class="field-error" role="alert">{{
      refused.fields[0]?.reason ?? refused.message
    }}</span>
  </form>
  <button
    v-else-if="here && !data?.some((f) => f.query === here)"
    type="button"
    class="link"
    @click="naming = true"
  >
    Save this filter
  </button>
</template>

<style scoped>
.kept {
  white-space: nowrap;
}
.kept [aria-current] {
  font-weight: 650;
}
.gone {
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  cursor: pointer;
  padding: 0;
  min-width: 24px;
  min-height: 24px;
}
.name {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
