<script setup lang="ts">
import { reactive, ref } from 'vue'

import { api, ask, asFile, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { useSubmit } from '../../parts/useSubmit'
import { shortDay, symptomWords } from '../../words'

/** What somebody with a link may do: tick a light task with a picture, report a symptom, or return one visit. */
const props = defineProps<{ token: string }>()
const { data, problem, loading, reload } = useLoad(() =>
  ask(api.GET('/guest/{token}', { params: { path: { token: props.token } } })),
)
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
    open.value = ''
    await reload()
  })
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
    done.value = 'Reported. Somebody will look at it.'
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
      <p v-if="done" class="notice" role="status">{{ done }}</p>

      <template v-if="data.kind === 'contractor'">
        <p>
          The visit to <strong>{{ data.tag }}</strong> is led step by step, also without network, and is
          returned at its end.
        </p>
        <RouterLink class="big" :to="`/g/${token}/work`">Start the visit</RouterLink>
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
            <div v-if="open === t.task_id" class="act">
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
      </template>
      <p class="soft">{{ data.deferral }}</p>
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
