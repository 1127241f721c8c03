<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { useRouter } from 'vue-router'

import {
  dropErrand,
  dropFromOutbox,
  flush,
  founds,
  readOutbox,
  returned,
  takeBack,
  waiting,
} from '../../offline/outbox'
import { keptUnits, type KeptUnit } from '../../offline/packs'
import { begun } from '../../offline/owner'
import { shelf, type Waiting } from '../../offline/shelf'
import { unitsOf } from '../../offline/today'
import SureButton from '../../parts/SureButton.vue'
import { count, kindWords, moment, roleWords, shortDay, upperFirst } from '../../words'

/** What this phone holds: visits that wait, what became of those sent, and what the server refused. */
const busy = ref(false)
async function again() {
  busy.value = true
  await flush()
  busy.value = false
}
const router = useRouter()
const mend = async (w: Waiting) => router.push(await takeBack(w))
const units = ref<KeptUnit[]>([])
/** What can go when the phone is full: what was sent, units of other days, pictures that can be read again. */
const done = computed(() => waiting.value.filter((w) => w.state === 'sent'))
const spare = ref<string[]>([])
const pictures = ref(0)
const room = ref('')
async function measure() {
  units.value = await keptUnits()
  const db = await shelf()
  const days = await db.getAll('days')
  const wanted = new Set([...days.flatMap((d) => (d.day.round ? unitsOf(d.day.round) : [])), ...begun()])
  spare.value = units.value.filter((u) => !wanted.has(u.unit_id)).map((u) => u.unit_id)
  pictures.value = await db.count('pictures')
  const e = await navigator.storage?.estimate?.().catch(() => undefined)
  room.value =
    e?.quota && e.usage !== undefined
      ? `${Math.round(e.usage / 1e6)} MB used of about ${Math.round(e.quota / 1e6)} MB this phone gives to the page.`
      : 'This phone does not say how much room there is.'
}
async function freeSent() {
  for (const w of done.value) await dropFromOutbox(w.key)
  await measure()
}
async function freeUnits() {
  const db = await shelf()
  for (const u of spare.value) await db.delete('packs', u)
  await measure()
}
async function freePictures() {
  await (await shelf()).clear('pictures')
  await measure()
}
onMounted(async () => {
  await measure()
  await readOutbox()
  await again()
})
const words: Record<Waiting['state'], string> = {
  waiting: 'Waiting for network',
  photos: 'Sent; photos still wait',
  refused: 'Refused by the server',
  sent: 'Sent',
}
/** What else waits for the office: jobs given back, units found. */
const errands = computed(() => [
  ...returned.value.map((r) => ({
    ...r,
    store: 'returns' as const,
    text: `${r.tag}, given back: ${r.body.note}`,
  })),
  ...founds.value.map((f) => ({
    ...f,
    store: 'founds' as const,
    text: `Unit found: ${f.site}, ${f.body.place}`,
  })),
])
const name = (w: Waiting) => `${w.tag}, ${shortDay(w.visit.day)}`
async function away(w: Waiting) {
  await dropFromOutbox(w.key)
  await measure()
}
</script>

<template>
  <section class="screen narrow">
    <h1>Kept on this phone</h1>
    <p v-if="!waiting.length" class="soft">Nothing waits here. What is kept was sent.</p>
    <ul class="ruled">
      <li v-for="w in waiting" :key="w.key">
        <p>
          <strong>{{ name(w) }}</strong>:
          <span :class="{ over: w.state === 'refused' }">{{ words[w.state] }}</span><span
            v-if="w.photos.length"
            class="soft"
          >
            · {{ w.photos.length }} photos</span
          >
        </p>
        <p v-if="w.problem" class="soft">{{ w.problem }}</p>
        <ul v-if="w.fields.length">
          <li v-for="f in w.fields" :key="f.pointer" class="over">
            {{ f.reason }} <span class="soft">{{ f.pointer }}</span>
          </li>
        </ul>
        <p v-if="w.outcome?.also?.length" class="notice">
          Another visit to this unit came in on the same day, by
          {{ w.outcome.also.map((x) => x.by || 'nobody named').join(', ') }}. If it is the same work, ask the
          office to void one.
        </p>
        <ul v-if="w.outcome" class="clocks">
          <li v-for="c in w.outcome.clocks" :key="c.coil_role + c.kind">
            {{ upperFirst(roleWords[c.coil_role]) }}, {{ kindWords[c.kind] }}: next due
            <strong>{{ shortDay(c.due) }}</strong><span
              v-if="c.sides.length && c.still_due?.length"
              class="over"
              >; stays due: {{ c.still_due.join(', ') }}</span
            ><template v-if="c.proposed_days">; proposed: every {{ c.proposed_days }} d</template>
          </li>
        </ul>
        <div class="row">
          <RouterLink v-if="w.state === 'sent' && !w.token" class="button" :to="`/visits/${w.key}`"
            >The record</RouterLink
          >
          <RouterLink v-if="w.state === 'sent' && !w.token" class="button" :to="`/visits/${w.key}/report`"
            >Report to the site</RouterLink
          >
          <button v-if="w.state === 'refused'" type="button" class="quiet" @click="mend(w)">
            Correct it
          </button>
          <SureButton
            v-if="w.state !== 'sent'"
            label="Remove from this phone"
            :ask="`Erase the visit to ${w.tag}? It is stored nowhere else.`"
            @sure="away(w)"
          />
          <button v-else type="button" class="quiet" @click="away(w)">Remove from this phone</button>
        </div>
      </li>
    </ul>
    <ul v-if="errands.length" class="ruled">
      <li v-for="e in errands" :key="e.key">
        <p>
          <strong>{{ e.text }}</strong>:
          <span :class="{ over: e.state === 'refused' }">{{ words[e.state] }}</span>
        </p>
        <p v-if="e.problem" class="soft">{{ e.problem }}</p>
        <button
          v-if="e.state === 'sent' || e.state === 'refused'"
          type="button"
          class="quiet"
          @click="dropErrand(e.store, e.key)"
        >
          Remove from this phone
        </button>
      </li>
    </ul>
    <button
      v-if="[...waiting, ...errands].some((w) => w.state === 'waiting' || w.state === 'photos')"
      type="button"
      class="big"
      :disabled="busy"
      @click="again"
    >
      Send now
    </button>
    <h2>Room on this phone</h2>
    <p class="soft">{{ room }}</p>
    <div class="row">
      <button v-if="done.length" type="button" class="quiet" @click="freeSent">
        Remove {{ count(done.length, 'visit') }} that {{ done.length === 1 ? 'was' : 'were' }} sent
      </button>
      <button v-if="spare.length" type="button" class="quiet" @click="freeUnits">
        Remove {{ count(spare.length, 'unit') }} not on today’s round
      </button>
      <button v-if="pictures" type="button" class="quiet" @click="freePictures">
        Remove {{ count(pictures, 'picture') }} of watched items
      </button>
    </div>
    <template v-if="units.length">
      <h2>Units kept on this phone, also usable without network</h2>
      <ul class="ruled">
        <li v-for="u in units" :key="u.unit_id">
          <RouterLink class="unit" :to="`/units/${u.unit_id}/work`"
            ><strong>{{ u.tag }}</strong
            >{{ u.where }}<span class="soft">as of {{ moment(u.at) }}</span></RouterLink
          >
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.big {
  width: 100%;
}
.narrow {
  max-width: 760px;
}
h2 {
  margin-top: 22px;
}
.unit {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: center;
  min-height: 44px;
  color: var(--ink);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.row .button,
.quiet {
  padding: 4px 14px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
</style>
