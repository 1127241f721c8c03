<script setup lang="ts">
import type { Schemas } from '../../api/client'
import TapChoice from '../../parts/TapChoice.vue'
import { shortDay, upperFirst, watchWords } from '../../words'
import KeptPicture from '../../parts/KeptPicture.vue'
import PhotoStrip from './PhotoStrip.vue'
import type { Work } from './ledVisit'

/** What is watched, beside its pictures: is it as it was? */
defineProps<{ pack: Schemas['VisitPack'] }>()
const work = defineModel<Work>({ required: true })
const states = Object.entries(watchWords).map(([value, label]) => ({ value: value as 'same', label }))
</script>

<template>
  <section v-for="w in pack.watch" :key="w.id" class="item">
    <h4>{{ upperFirst(w.what) }}</h4>
    <p class="soft">
      Watched since {{ shortDay(w.opened) }}<template v-if="w.side">, {{ w.side }}</template
      >.<template v-if="w.looks.length">
        Last: {{ watchWords[w.looks[w.looks.length - 1]!.state as 'same'].toLowerCase() }},
        {{ shortDay(w.looks[w.looks.length - 1]!.day) }}.</template
      >
    </p>
    <div v-if="w.photos.length" class="photos">
      <figure v-for="p in w.photos" :key="p.id">
        <KeptPicture :id="p.id" :alt="p.name" />
        <figcaption class="soft">{{ p.name.replace(/\.\w+$/, '') }}</figcaption>
      </figure>
    </div>
    <template v-if="work.watched[w.id]">
      <TapChoice v-model="work.watched[w.id]!.state" hide-label :label="`${w.what}: now`" :options="states" />
      <label v-if="work.watched[w.id]!.state" class="field"
        ><span class="label">Note</span
        ><input v-model="work.watched[w.id]!.note" class="plain-input" maxlength="500"
      /></label>
      <PhotoStrip v-model="work" step="watch_items" :item="w.id" ask="it again, as before" />
    </template>
  </section>
  <slot />
</template>

<style scoped>
.item {
  border-top: 1px solid var(--hairline);
  padding: 8px 0;
}
h4 {
  margin: 0 0 2px;
  font-size: 15px;
}
.photos {
  display: grid;
  grid-template-columns: repeat(2, 1fr);
  gap: 8px;
  margin-bottom: 8px;
}
figure {
  margin: 0;
}
:deep(img) {
  width: 100%;
  aspect-ratio: 3 / 2;
  object-fit: contain;
  display: block;
}
</style>
