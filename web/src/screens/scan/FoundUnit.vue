<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import { refusal } from '../../offline/device'
import { flush, putFound } from '../../offline/outbox'
import { smaller, todayOf } from '../../offline/today'
import { loadCatalogue } from '../../session'

/** A unit met on site that is not in the register: where it is, what it is, a picture. A manager decides. */
const emit = defineEmits<{ done: [] }>()
const sites = ref<{ id: string; name: string }[]>([])
const classes = ref<Schemas['ClassChoice'][]>([])
const site = ref('')
const place = ref('')
const tag = ref('')
const kind = ref('')
const note = ref('')
const photo = ref<Blob | null>(null)
const broken = ref('')
const kept = ref(false)
void ask(api.GET('/sites'))
  .then((list) => (sites.value = list.map((s) => ({ id: s.id, name: s.name }))))
  .catch(async () => {
    // Without network the sites of the day are known.
    const day = await todayOf('').catch(() => null)
    sites.value = (day?.day.round?.stops ?? []).map((s) => ({ id: s.site_id, name: s.site }))
  })
void loadCatalogue()
  .then((c) => (classes.value = c.classes))
  .catch(() => (classes.value = []))
const ready = computed(() => site.value && place.value.trim())

async function take(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file) return
  photo.value = await smaller(file, 1600).catch(() => null)
  broken.value = photo.value ? '' : 'That is not a picture this phone can read.'
}
async function send() {
  try {
    await putFound({
      key: crypto.randomUUID(),
      site: sites.value.find((s) => s.id === site.value)?.name ?? '',
      body: {
        site_id: site.value,
        place: place.value.trim(),
        ...(tag.value.trim() ? { tag: tag.value.trim() } : {}),
        ...(kind.value ? { class_id: kind.value } : {}),
        ...(note.value.trim() ? { note: note.value.trim() } : {}),
      },
      photo: photo.value,
    })
    kept.value = true
    void flush()
  } catch (e) {
    broken.value = refusal(e)
  }
}
</script>

<template>
  <p v-if="kept" class="notice" role="status">
    Kept for the office, which decides whether it goes into the register.
    <button type="button" class="link" @click="emit('done')">Close</button>
  </p>
  <div v-else class="notice">
    <p v-if="broken" class="field-error" role="alert">{{ broken }}</p>
    <label class="field"
      ><span class="label">Site</span
      ><select v-model="site" class="plain-input" name="site">
        <option value="">choose</option>
        <option v-for="s in sites" :key="s.id" :value="s.id">{{ s.name }}</option>
      </select></label
    >
    <label class="field"
      ><span class="label">Where on the site</span
      ><input
        v-model="place"
        class="plain-input"
        name="place"
        maxlength="200"
        placeholder="for example: roof, north corner"
    /></label>
    <label class="field"
      ><span class="label">Tag or serial on it, if any</span
      ><input v-model="tag" class="plain-input" name="found-tag" maxlength="60"
    /></label>
    <label v-if="classes.length" class="field"
      ><span class="label">What it looks like</span
      ><select v-model="kind" class="plain-input" name="class">
        <option value="">not sure</option>
        <option v-for="c in classes" :key="c.id" :value="c.id">{{ c.name }}</option>
      </select></label
    >
    <label class="field"
      ><span class="label">Anything else</span
      ><input v-model="note" class="plain-input" name="found-note" maxlength="1000"
    /></label>
    <label class="add-one"
      ><input type="file" accept="image/*" capture="environment" class="visually-hidden" @change="take" />{{
        photo ? 'Photographed: take another' : 'Photograph it'
      }}</label
    >
    <button type="button" class="big" :disabled="!ready" @click="send">Send to the office</button>
  </div>
</template>

<style scoped>
.big {
  width: 100%;
  margin-top: 10px;
}
</style>
