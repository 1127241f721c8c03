<script setup lang="ts">
import { computed } from 'vue'

import { api, ask } from '../../api/client'
import { useLoad } from '../../parts/useLoad'

/** Photos of a visit by side: before and after beside one another. */
const props = defineProps<{ id: string; sides: Record<string, string> }>()
const { data } = useLoad(() =>
  ask(api.GET('/attachments', { params: { query: { entity: 'visit', entity_id: props.id } } })),
)
const groups = computed(() => {
  const photos = (data.value ?? []).filter((a) => a.phase)
  const keys = [...new Set(photos.map((a) => a.surface_id ?? ''))]
  return keys.map((k) => ({
    name: props.sides[k] ?? 'The unit',
    before: photos.filter((a) => (a.surface_id ?? '') === k && a.phase === 'before'),
    after: photos.filter((a) => (a.surface_id ?? '') === k && a.phase === 'after'),
  }))
})
</script>

<template>
  <fieldset v-if="groups.length" class="part">
    <legend>Before and after</legend>
    <div v-for="g in groups" :key="g.name" class="pair">
      <h3>{{ g.name }}</h3>
      <div v-for="(list, phase) in { before: g.before, after: g.after }" :key="phase">
        <span class="soft">{{ phase }}</span>
        <a v-for="p in list" :key="p.id" :href="`/api/v1/attachments/${p.id}`" target="_blank" rel="noopener"
          ><img :src="`/api/v1/attachments/${p.id}`" :alt="`${g.name}, ${phase}`" loading="lazy"
        /></a>
      </div>
    </div>
  </fieldset>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 14px;
  max-width: 760px;
  margin-bottom: 14px;
}
h3 {
  grid-column: 1 / -1;
}
img {
  width: 100%;
  aspect-ratio: 3 / 2;
  object-fit: contain;
  display: block;
  margin-bottom: 6px;
}
</style>
