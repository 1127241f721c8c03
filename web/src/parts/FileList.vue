<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { ref } from 'vue'

import { api, asFile, ask, problemOf, type Schemas } from '../api/client'
import { mayManage, mayRecord } from '../session'
import { fileWords, moment } from '../words'
import LoadState from './LoadState.vue'
import ProblemNote from './ProblemNote.vue'
import { useLoad } from './useLoad'
import { useSubmit } from './useSubmit'

/** The files kept with a record: photos, data sheets, manuals. */
const props = defineProps<{ entity: 'unit' | 'site' | 'visit'; id: string }>()
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/attachments', { params: { query: { entity: props.entity, entity_id: props.id } } })),
)
type Kind = 'photo' | 'data_sheet' | 'manual' | 'other'
const kind = ref<Kind>('photo')
const { busy, refused, submit } = useSubmit()

async function add(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  busy.value = true
  refused.value = null
  try {
    await ask(
      api.POST('/attachments', {
        params: { query: { entity: props.entity, entity_id: props.id, kind: kind.value, name: file.name } },
        body: (await file.arrayBuffer()) as unknown as string,
        ...asFile,
      }),
    )
    await reload()
  } catch (err) {
    refused.value = problemOf(err)
  } finally {
    busy.value = false
    input.value = ''
  }
}
async function remove(a: Schemas['Attachment']) {
  await submit(async () => {
    await ask(api.DELETE('/attachments/{attachment_id}', { params: { path: { attachment_id: a.id } } }))
    await reload()
  })
}
const size = (bytes: number) =>
  bytes < 100_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`
</script>

<template>
  <LoadState :loading="loading && !data" :problem="problem" what="the files" @retry="reload" />
  <ProblemNote :problem="refused" />
  <p v-if="data && !data.length" class="soft">No file yet.</p>
  <ul class="files">
    <li v-for="a in data ?? []" :key="a.id">
      <a :href="`/api/v1/attachments/${a.id}`" target="_blank" rel="noopener">
        <img v-if="a.media_type.startsWith('image/')" :src="`/api/v1/attachments/${a.id}`" :alt="a.name" />
        {{ a.name }}
      </a>
      <span class="soft">{{ fileWords[a.kind] }}, {{ size(a.bytes) }}, {{ moment(a.at) }}, {{ a.by }}</span>
      <ElButton v-if="mayManage()" size="small" :aria-label="`Remove ${a.name}`" @click="remove(a)"
        >Remove</ElButton
      >
    </li>
  </ul>
  <div v-if="mayRecord()" class="add">
    <ElSelect v-model="kind" class="kind" aria-label="Kind of file">
      <ElOption v-for="(w, k) in fileWords" :key="k" :value="k" :label="w" />
    </ElSelect>
    <label class="choose"
      ><span class="visually-hidden">Add a file</span
      ><input type="file" accept="image/jpeg,image/png,application/pdf" :disabled="busy" @change="add"
    /></label>
    <span class="soft">JPEG, PNG or PDF, up to 12 MB. What a camera wrote into a photo is taken out.</span>
  </div>
</template>

<style scoped>
.files {
  list-style: none;
  margin: 0;
  padding: 0;
}
.files li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  padding: 5px 0;
  border-bottom: 1px solid var(--hairline);
}
.files a {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
img {
  width: 66px;
  height: 44px;
  object-fit: cover;
}
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  margin-top: 8px;
}
.kind {
  width: 130px;
}
</style>
