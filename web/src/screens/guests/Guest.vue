<script setup lang="ts">
import { reactive, ref } from 'vue'

import { api, ask, asFile, type Schemas } from '../../api/client'
import { putDown } from '../../offline/device'
import { packFor, reachesNothing } from '../../offline/packs'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { shortDay, symptomWords } from '../../words'
import TaskDrawing from './TaskDrawing.vue'

/** What somebody with a link may do: tick a light task with a picture, report a symptom, or return one visit. */
const props = defineProps<{ token: string }>()
const place = `guest:${props.token}`
/** A contractor works on without network: the page and what each unit needs are kept. */
const kept = ref('')
const { data, problem, loading, reload } = useLoad(async () => {
  try {
    const page = await ask(api.GET('/guest/{token}', { params: { path: { token: props.token } } }))
    if (page.kind === 'contractor') {
      putDown(place, page)
      void keep(page)
    }
    return page
  } catch (e) {
    const before = localStorage.getItem(place)
    if (!reachesNothing(e) || !before) throw e
    kept.value = 'No network: as it was kept.'
    return JSON.parse(before) as Schemas['GuestPage']
  }
})
async function keep(page: Schemas['GuestPage']) {
  let n = 0
  const open = page.units.filter((u) => !u.returned)
  for (const u of open)
    if (!(await packFor(u.unit_id, props.token).catch(() => ({ unkept: 'x' }))).unkept) n++
  kept.value =
    n === open.length
      ? 'Kept on this phone: it works without network.'
      : `Kept on this phone: ${n} of ${open.length} units.`
}
const { busy, refused, submit } = useSubmit()
const open = ref('')
const photo = ref<File | null>(null)
const done = ref('')
const form = reactive({ kind: '' as Schemas['SymptomKind'] | '', unit: '', note: '' })

const pick = (e: Event) => (photo.value = (e.target as HTMLInputElement).files?.[0] ?? null)
async function keepPhoto(entity: 'tick' | 'symptom', id: string) {
  if (!photo.value) return
  await ask(
    api.POST('/guest/{token}/photos', {
      params: { path: { token: props.token }, query: { entity, entity_id: id } },
      body: photo.value as unknown as string,
      ...asFile,
    }),
  )
  photo.value = null
}
async function tick(t: Schemas['GuestTask']) {
  await submit(async () => {
    const made = await ask(
      api.POST('/guest/{token}/ticks', {
        params: { path: { token: props.token } },
        body: { task_id: t.task_id },
      }),
    )
    await keepPhoto('tick', made.id)
    done.value = `${t.what}, ${t.tag}: noted. Thank you.`
    back.value = made.id
    open.value = ''
    await reload()
  })
}
/** The tick that was just made; it can be taken back the same day. */
const back = ref('')
async function untick(id: string) {
  await submit(async () => {
    await ask(
      api.DELETE('/guest/{token}/ticks/{tick_id}', { params: { path: { token: props.token, tick_id: id } } }),
    )
    done.value = 'Taken back.'
    back.value = ''
    await reload()
  })
}
const becameWords: Record<Schemas['GuestReport']['status'], string> = {
  open: 'received; somebody decides today',
  brought_forward: 'a clean is brought forward',
  elsewhere: 'somebody looks for another cause',
  closed: 'closed',
}
async function report() {
  await submit(async () => {
    if (!form.kind) return
    const made = await ask(
      api.POST('/guest/{token}/symptoms', {
        params: { path: { token: props.token } },
        body: {
          kind: form.kind,
          ...(form.unit ? { unit_id: form.unit } : {}),
          ...(form.note ? { note: form.note } : {}),
        },
      }),
    )
    await keepPhoto('symptom', made.id)
    done.value = 'Reported. A manager sees it now and decides today; what is decided shows below.'
    back.value = ''
    await reload()
    form.kind = ''
    form.note = ''
    form.unit = ''
  })
}
const dueWords = (t: Schemas['GuestTask']) =>
  t.days_late > 0 ? `${t.days_late} d late` : t.days_late === 0 ? 'due today' : `due ${shortDay(t.due)}`
</script>

<template>
  <section class="screen guest">
    <div v-if="problem && problem.status === 404" class="notice danger">
      <h1>This link does not work any more.</h1>
      <p>It has ended or was used. Ask whoever gave it to you for a new one.</p>
    </div>
    <LoadState v-else :loading="loading && !data" :problem="problem" what="the link" @retry="reload" />
    <template v-if="data">
      <h1>{{ data.site }}</h1>
      <p class="soft">
        For {{ data.name }}, until {{ shortDay(data.expires_at.slice(0, 10)) }}. This link shows this site
        only.
      </p>
      <ul class="cautions">
        <li v-for="c in data.cautions" :key="c">{{ c }}</li>
      </ul>
      <ProblemNote :problem="refused" />
      <template v-if="data.kind === 'contractor'">
        <p v-if="kept" class="soft" role="status">{{ kept }}</p>
        <p v-if="data.units.length === 1">
          The visit to <strong>{{ data.tag }}</strong> is led step by step, also without network, and is
          returned at its end.
        </p>
        <p v-else>The visits are led step by step, also without network, and each is returned at its end.</p>
        <template v-for="u in data.units" :key="u.unit_id">
          <p v-if="u.returned">✓ {{ u.tag }}, {{ u.placement }}: returned</p>
          <RouterLink v-else class="big" :to="`/g/${token}/units/${u.unit_id}/work`"
            >Start the visit<template v-if="data.units.length > 1">
              to {{ u.tag }}, {{ u.placement }}</template
            ></RouterLink
          >
        </template>
      </template>
      <template v-else>
        <h2>To do</h2>
        <p v-if="!data.tasks.length" class="soft">Nothing here is for you to do.</p>
        <ul class="plain">
          <li v-for="t in data.tasks" :key="t.task_id">
            <button
              type="button"
              class="line"
              :aria-expanded="open === t.task_id"
              @click="open = open === t.task_id ? '' : t.task_id"
            >
              <span
                ><strong>{{ t.what }}</strong
                ><br /><span class="soft"
                  >{{ t.tag }}, {{ t.placement }}; every {{ t.every_days }} d</span
                ></span
              >
              <span :class="{ over: t.days_late > 0 }">{{ dueWords(t) }}</span>
            </button>
            <p v-if="t.ticked" class="row">
              Done today.
              <button type="button" class="link" :disabled="busy" @click="untick(t.ticked)">
                Not done after all: take it back
              </button>
            </p>
            <div v-if="open === t.task_id && !t.ticked" class="act">
              <TaskDrawing :kind="t.kind ?? 'inspect'" />
              <label class="add-one"
                ><input
                  type="file"
                  accept="image/*"
                  capture="environment"
                  class="visually-hidden"
                  @change="pick"
                />{{ photo ? 'Picture taken' : 'Add a picture' }}</label
              >
              <button type="button" class="big" :disabled="busy" @click="tick(t)">Done today</button>
            </div>
          </li>
        </ul>
        <h2>Something is wrong</h2>
        <form novalidate @submit.prevent="report">
          <label class="field"
            ><span class="label">What</span>
            <select v-model="form.kind" class="plain-input">
              <option value="">choose</option>
              <option v-for="(w, k) in symptomWords" :key="k" :value="k">{{ w }}</option>
            </select>
          </label>
          <label class="field"
            ><span class="label">Which unit</span>
            <select v-model="form.unit" class="plain-input">
              <option value="">do not know</option>
              <option v-for="u in data.units" :key="u.unit_id" :value="u.unit_id">
                {{ u.tag }}, {{ u.placement }}
              </option>
            </select>
          </label>
          <label class="field"
            ><span class="label">What was seen or heard</span
            ><textarea v-model="form.note" class="plain-input" maxlength="1000"></textarea>
          </label>
          <label class="add-one"
            ><input
              type="file"
              accept="image/*"
              capture="environment"
              class="visually-hidden"
              @change="pick"
            />{{ photo ? 'Picture taken' : 'Add a picture' }}</label
          >
          <button type="submit" class="big" :disabled="busy || !form.kind">Report it</button>
        </form>
        <p class="soft">
          What happens then: a manager sees it at once, and decides whether the clean comes forward, somebody
          looks elsewhere first, or nothing is needed. Goods that are warming: move them now, and call.
        </p>
        <ul v-if="data.reports?.length" class="plain">
          <li v-for="(r, i) in data.reports" :key="i">
            {{ shortDay(r.day) }}: {{ symptomWords[r.kind].toLowerCase() }}{{ r.tag ? `, ${r.tag}` : '' }}:
            <strong>{{ becameWords[r.status] }}</strong>
          </li>
        </ul>
      </template>
      <p class="soft">{{ data.deferral }}</p>
      <div v-if="done" class="notice thumbed" role="status">
        {{ done }}
        <button v-if="back" type="button" class="quiet" :disabled="busy" @click="untick(back)">
          Take it back
        </button>
        <button type="button" class="quiet" @click="done = ''">Seen</button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.big {
  display: flex;
  align-items: center;
  justify-content: center;
  width: 100%;
  text-decoration: none;
  margin-bottom: 12px;
}
.guest {
  max-width: 620px;
}
.thumbed {
  position: sticky;
  bottom: 8px;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.link {
  min-height: 44px;
}
.cautions {
  padding-left: 18px;
  font-size: 14.5px;
}
h2 {
  margin: 20px 0 6px;
  border-top: 2px solid var(--ink);
  padding-top: 8px;
}
.plain {
  list-style: none;
  padding: 0;
}
.plain li {
  border-bottom: 1px solid var(--hairline);
}
.line {
  width: 100%;
  min-height: 56px;
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  text-align: left;
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
}
.act {
  padding-bottom: 12px;
}
</style>
