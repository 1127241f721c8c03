<script setup lang="ts">
import { onBeforeUnmount, ref, watch } from 'vue'

import { refusal } from '../../offline/device'
import SureButton from '../../parts/SureButton.vue'
import { shelf } from '../../offline/shelf'
import { smaller } from '../../offline/today'
import type { Work } from './ledVisit'

/** Photos tied to a step, a side, before or after, or to something watched. They wait on the phone with the visit. */
const props = withDefaults(
  defineProps<{
    step: string
    ask: string
    phase?: 'before' | 'after' | ''
    item?: string
    sides?: { id: string; name: string }[]
  }>(),
  { phase: '', item: '', sides: () => [] },
)
const work = defineModel<Work>({ required: true })
const urls = ref<Record<string, string>>({})
const side = ref('')
const failed = ref('')
/** The pictures from before, beside those from after. */
const earlier = () => (props.phase === 'after' ? work.value.photos.filter((p) => p.phase === 'before') : [])
const mine = () => work.value.photos.filter((p) => p.step === props.step && p.watch_id === props.item)

watch(
  () => [...earlier(), ...mine()].map((p) => p.id).join(),
  async () => {
    const db = await shelf()
    for (const p of [...earlier(), ...mine()]) {
      if (urls.value[p.id]) continue
      const kept = await db.get('photos', p.id)
      if (kept) urls.value[p.id] = URL.createObjectURL(kept.blob)
    }
  },
  { immediate: true },
)
onBeforeUnmount(() => Object.values(urls.value).forEach((u) => URL.revokeObjectURL(u)))

/** Phones make pictures larger than anybody looks at them; they are drawn smaller before they are kept. */
const longest = 1600

async function take(e: Event) {
  const input = e.target as HTMLInputElement
  failed.value = ''
  for (const file of input.files ?? []) {
    let blob: Blob
    try {
      blob = await smaller(file, longest)
    } catch {
      failed.value = 'That is not a picture this phone can read.'
      continue
    }
    try {
      const photo = {
        id: crypto.randomUUID(),
        name:
          [props.step.replaceAll('_', ' '), props.phase].filter(Boolean).join(' ') + ` ${mine().length + 1}`,
        step: props.step,
        phase: props.phase,
        surface_id: side.value,
        watch_id: props.item,
      }
      await (await shelf()).put('photos', { ...photo, unit_id: work.value.unit_id, blob })
      work.value.photos.push(photo)
    } catch (e) {
      failed.value = refusal(e)
    }
  }
  input.value = ''
}
async function away(id: string) {
  work.value.photos = work.value.photos.filter((p) => p.id !== id)
  await (await shelf()).delete('photos', id)
}
const nameOf = (id: string) => props.sides.find((s) => s.id === id)?.name ?? ''
</script>

<template>
  <div class="strip">
    <label v-if="sides.length > 1" class="field"
      ><span class="label">Picture of</span>
      <select v-model="side" class="plain-input">
        <option value="">the unit</option>
        <option v-for="s in sides" :key="s.id" :value="s.id">{{ s.name }}</option>
      </select>
    </label>
    <label class="add-one"
      ><input
        type="file"
        accept="image/*"
        capture="environment"
        multiple
        class="visually-hidden"
        @change="take"
      />Photograph {{ ask }}</label
    >
    <p v-if="failed" class="field-error" role="alert">{{ failed }}</p>
    <div v-if="mine().length || earlier().length" class="row">
      <figure v-for="p in earlier()" :key="p.id">
        <img v-if="urls[p.id]" :src="urls[p.id]" :alt="`${p.name} ${nameOf(p.surface_id)}`" />
        <figcaption class="soft">
          before<template v-if="nameOf(p.surface_id)">, {{ nameOf(p.surface_id) }}</template>
        </figcaption>
      </figure>
      <figure v-for="p in mine()" :key="p.id">
        <img v-if="urls[p.id]" :src="urls[p.id]" :alt="`${p.name} ${nameOf(p.surface_id)}`" />
        <figcaption class="soft">{{ nameOf(p.surface_id) || p.name }}</figcaption>
        <SureButton
          look="link"
          label="take out"
          :name="`Remove ${p.name}`"
          ask="Erase this picture?"
          @sure="away(p.id)"
        />
      </figure>
    </div>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
figure {
  margin: 0;
  width: 104px;
}
img {
  width: 100%;
  height: 78px;
  object-fit: cover;
  display: block;
}
.link {
  min-height: 44px;
}
</style>
