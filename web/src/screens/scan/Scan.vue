<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, problemOf } from '../../api/client'
import { keptUnits, type KeptUnit } from '../../offline/packs'
import { todayOf } from '../../offline/today'
import { unitsAt, workAt } from '../today/day'
import FoundUnit from './FoundUnit.vue'

/** A unit by its label, read with the camera or typed, or by its tag: it leads to the work. */
const route = useRoute()
const router = useRouter()
/** Where a visit asks whether this is its unit. */
const expected = computed(() => String(route.query['expect'] ?? ''))
const text = ref('')
const kept = ref<KeptUnit[]>([])
const found = ref<{ unit_id: string; tag: string; where: string }[]>([])
const said = ref('')
const wrong = ref('')
const missing = ref(false)
void keptUnits().then((u) => {
  kept.value = u
  look()
})

/** What is kept on the phone first, then what the server knows. */
async function look() {
  const q = text.value.trim().toLowerCase()
  const here = kept.value.filter((u) => q && u.tag.toLowerCase().includes(q))
  found.value = here
  said.value = ''
  if (q.length < 2) return
  try {
    const all = await ask(api.GET('/search', { params: { query: { q: text.value.trim() } } }))
    const more = all
      .filter((x) => x.kind === 'unit' && !here.some((u) => u.unit_id === x.id))
      .map((x) => ({ unit_id: x.id, tag: x.label, where: x.detail }))
    if (q === text.value.trim().toLowerCase()) found.value = [...here, ...more]
  } catch (e) {
    if (problemOf(e).status !== 0) said.value = problemOf(e).message
    else if (!here.length) said.value = 'No network: only units kept on this phone are found.'
  }
}
const lookSoon = useDebounceFn(() => void look(), 200)
watch(text, lookSoon)

async function open(unit: string, tag: string) {
  if (expected.value) {
    if (expected.value === unit) await router.push(`/units/${unit}/work`)
    else {
      const right = kept.value.find((u) => u.unit_id === expected.value)?.tag ?? 'the unit of this visit'
      wrong.value = `This is ${tag}, not ${right}. Do not begin here.`
    }
    return
  }
  await router.push(await placeOf(unit))
}
/** The work planned there today, else the visit as such. */
async function placeOf(unit: string): Promise<string> {
  const day = await todayOf('').catch(() => null)
  const round = day?.day.round
  for (const stop of round?.stops ?? []) {
    const u = unitsAt(stop, round!, { begun: [], waiting: [], returned: [] }).find((x) => x.unit_id === unit)
    if (u) return workAt(u, round!.id)
  }
  return `/units/${unit}/work`
}

/** A label holds an address that ends in its code. */
async function read(value: string) {
  const code = /\/u\/([0-9a-z]+)/i.exec(value)?.[1] ?? value.trim()
  const here = kept.value.find((u) => u.label && u.label === code.toLowerCase())
  if (here) return open(here.unit_id, here.tag)
  try {
    const unit = await ask(api.GET('/labels/{code}', { params: { path: { code } } }))
    const tag = kept.value.find((u) => u.unit_id === unit.id)?.tag ?? 'another unit'
    await open(unit.id, tag)
  } catch (e) {
    const p = problemOf(e)
    said.value =
      p.status === 404
        ? 'No unit you may see has this label.'
        : p.status === 0
          ? 'No network, and no unit with this label is kept on this phone.'
          : p.message
  }
}

/** The camera, where this browser can read codes (the Barcode Detection interface of the Shape Detection API). */
interface Detector {
  detect: (from: HTMLVideoElement) => Promise<{ rawValue: string }[]>
}
const Detecting = (window as unknown as { BarcodeDetector?: new (o: { formats: string[] }) => Detector })
  .BarcodeDetector
const video = ref<HTMLVideoElement>()
const filming = ref(false)
let stream: MediaStream | null = null
async function film() {
  said.value = ''
  try {
    stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment' } })
  } catch {
    said.value = 'The camera is not allowed or not there. Type the tag instead.'
    return
  }
  filming.value = true
  await new Promise(requestAnimationFrame)
  video.value!.srcObject = stream
  await video.value!.play()
  const detector = new Detecting!({ formats: ['qr_code'] })
  while (filming.value) {
    const codes = await detector.detect(video.value!).catch(() => [])
    if (codes[0]) {
      stopFilming()
      await read(codes[0].rawValue)
      return
    }
    await new Promise((r) => setTimeout(r, 200))
  }
}
function stopFilming() {
  filming.value = false
  stream?.getTracks().forEach((t) => t.stop())
}
onBeforeUnmount(stopFilming)
</script>

<template>
  <section class="screen scan">
    <h1>{{ expected ? 'Is this the unit?' : 'Find a unit' }}</h1>
    <p v-if="wrong" class="notice danger" role="alert">
      <strong>{{ wrong }}</strong>
    </p>
    <button v-if="Detecting && !filming" type="button" class="big" @click="film">Read its label</button>
    <template v-else-if="filming">
      <video ref="video" muted playsinline aria-label="What the camera sees" />
      <button type="button" class="quiet" @click="stopFilming">Stop the camera</button>
    </template>
    <p v-else class="soft">
      This browser cannot read labels: type the tag, or use the phone’s own camera on the label.
    </p>
    <label class="field"
      ><span class="label">Tag, or the code on the label</span
      ><input
        v-model="text"
        class="plain-input"
        name="tag"
        maxlength="64"
        autocapitalize="characters"
        autocomplete="off"
        @keydown.enter="text.trim().length >= 8 && read(text)"
    /></label>
    <p v-if="said" class="notice" role="status">{{ said }}</p>
    <ul class="ruled">
      <li v-for="u in found.slice(0, 12)" :key="u.unit_id">
        <button type="button" class="unit" @click="open(u.unit_id, u.tag)">
          <strong>{{ u.tag }}</strong> <span class="soft">{{ u.where }}</span>
        </button>
      </li>
    </ul>
    <template v-if="!expected">
      <button type="button" class="add-one" :aria-expanded="missing" @click="missing = !missing">
        A unit that is not in the register
      </button>
      <FoundUnit v-if="missing" @done="missing = false" />
    </template>
  </section>
</template>

<style scoped>
.scan {
  max-width: 760px;
}
.big {
  width: 100%;
  margin-bottom: 10px;
}
video {
  width: 100%;
  max-height: 50vh;
  background: var(--ink);
}
.unit {
  width: 100%;
  min-height: 48px;
  border: 0;
  background: none;
  text-align: left;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
}
</style>
