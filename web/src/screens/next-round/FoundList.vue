<script setup lang="ts">
import { ref } from 'vue'

import { api, ask, type ApiProblem, problemOf, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { shortDay } from '../../words'

/** Units met on site that are not in the register: add them, or say why not. */
const { data, reload } = useLoad(() => ask(api.GET('/found-units')))
const refused = ref<ApiProblem | null>(null)
const open = ref('')
const why = ref('')
async function dismiss(f: Schemas['FoundUnit']) {
  try {
    await ask(
      api.POST('/found-units/{found_id}/decision', {
        params: { path: { found_id: f.id } },
        body: { dismissed: why.value },
      }),
    )
    open.value = ''
    why.value = ''
    refused.value = null
    await reload()
  } catch (e) {
    refused.value = problemOf(e)
  }
}
const add = (f: Schemas['FoundUnit']) => ({
  path: '/portfolio/new-unit',
  query: { site: f.site, placement: f.place, tag: f.tag, class: f.class_code, found: f.id },
})
</script>

<template>
  <template v-if="data?.length">
    <h2 id="found-units">Found on site, not in the register</h2>
    <ProblemNote :problem="refused" />
    <ul class="waiting" aria-labelledby="found-units">
      <li v-for="f in data" :key="f.id">
        <strong>{{ f.site }}</strong>, {{ f.place
        }}<span class="soft">, {{ shortDay(f.day) }}, {{ f.by }}</span>
        <div>{{ [f.class, f.tag, f.note].filter(Boolean).join(' · ') }}</div>
        <a v-for="p in f.photos" :key="p.id" :href="`/api/v1/attachments/${p.id}`"
          ><img :src="`/api/v1/attachments/${p.id}`" :alt="`${f.place}, as found`" loading="lazy"
        /></a>
        <div class="row">
          <RouterLink :to="add(f)">Add it to the register</RouterLink>
          <button
            type="button"
            class="link"
            :aria-expanded="open === f.id"
            @click="open = open === f.id ? '' : f.id"
          >
            Not ours …
          </button>
        </div>
        <label v-if="open === f.id" class="field"
          ><span class="label">Why it does not belong there</span
          ><input v-model="why" class="plain-input" maxlength="500"
        /></label>
        <button
          v-if="open === f.id"
          type="button"
          class="plain-button"
          :disabled="!why.trim()"
          @click="dismiss(f)"
        >
          Close it
        </button>
      </li>
    </ul>
  </template>
</template>

<style scoped>
.waiting {
  list-style: none;
  padding: 0;
  margin: 6px 0 22px;
}
li {
  border-bottom: 1px solid var(--hairline);
  padding: 6px 0;
}
img {
  width: 120px;
  display: block;
}
.row {
  display: flex;
  gap: 16px;
  align-items: center;
}
</style>
