<script setup lang="ts">
import { ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { mayManage, mayRecord } from '../../session'
import { shortDay, upperFirst, watchWords } from '../../words'

/** What is watched on the unit: opened here or at a visit, looked at each visit, closed by the manager. */
const props = defineProps<{ id: string }>()
const path = { params: { path: { unit_id: props.id } } }
const { data, problem, loading, reload } = useLoad(() => ask(api.GET('/units/{unit_id}/watch-items', path)))
const what = ref('')
const closing = ref('')
const reason = ref('')
const { busy, refused, submit } = useSubmit()

async function add() {
  await submit(async () => {
    await ask(api.POST('/units/{unit_id}/watch-items', { ...path, body: { what: what.value } }))
    what.value = ''
    await reload()
  })
}
async function close(w: Schemas['WatchItem']) {
  await submit(async () => {
    await ask(
      api.POST('/watch-items/{watch_id}/closing', {
        params: { path: { watch_id: w.id } },
        body: { reason: reason.value },
      }),
    )
    closing.value = ''
    reason.value = ''
    await reload()
  })
}
</script>

<template>
  <LoadState :loading="loading && !data" :problem="problem" what="what is watched" @retry="reload" />
  <ProblemNote :problem="refused" />
  <p v-if="data && !data.length" class="soft">Nothing is watched.</p>
  <ul class="items">
    <li v-for="w in data ?? []" :key="w.id">
      <strong :class="{ soft: w.closed }">{{ upperFirst(w.what) }}</strong>
      <span class="soft">
        since {{ shortDay(w.opened) }}{{ w.side ? `, ${w.side}` : ''
        }}<template v-if="w.closed">; closed {{ shortDay(w.closed) }}, {{ w.closed_why }}</template></span
      >
      <div v-for="l in w.looks" :key="l.day" class="soft">
        {{ shortDay(l.day) }}: {{ watchWords[l.state as 'same'].toLowerCase()
        }}{{ l.note ? `, ${l.note}` : '' }}
      </div>
      <div v-if="w.photos.length" class="photos">
        <figure v-for="p in w.photos" :key="p.id">
          <a :href="`/api/v1/attachments/${p.id}`" target="_blank" rel="noopener"
            ><img :src="`/api/v1/attachments/${p.id}`" :alt="p.name" loading="lazy"
          /></a>
          <figcaption class="soft">{{ p.name.replace(/\.\w+$/, '') }}</figcaption>
        </figure>
      </div>
      <template v-if="mayManage() && !w.closed">
        <button v-if="closing !== w.id" type="button" class="link" @click="closing = w.id">Close it</button>
        <form v-else class="row" novalidate @submit.prevent="close(w)">
          <label class="visually-hidden" :for="`why-${w.id}`">Why it need not be watched</label>
          <input
            :id="`why-${w.id}`"
            v-model="reason"
            class="plain-input"
            maxlength="1000"
            placeholder="why it need not be watched"
          />
          <button type="submit" class="plain-button" :disabled="busy || !reason.trim()">Close it</button>
        </form>
      </template>
    </li>
  </ul>
  <form v-if="mayRecord()" class="row" novalidate @submit.prevent="add">
    <label class="visually-hidden" for="watch-what">Something to watch</label>
    <input
      id="watch-what"
      v-model="what"
      class="plain-input"
      maxlength="500"
      placeholder="something to look at again each visit"
    />
    <button type="submit" class="plain-button" :disabled="busy || !what.trim()">Watch it</button>
  </form>
</template>

<style scoped>
.items {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.items li {
  border-bottom: 1px solid var(--hairline);
  padding: 6px 0;
}
.photos {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 6px 0;
}
figure {
  margin: 0;
  width: 180px;
}
img {
  width: 100%;
  aspect-ratio: 3 / 2;
  object-fit: cover;
  display: block;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
