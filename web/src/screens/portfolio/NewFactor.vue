<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, problemOf, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { loadCatalogue, session } from '../../session'
import { useSubmit } from '../../parts/useSubmit'

const router = useRouter()
const { data, problem, loading, reload } = useLoad(async () => {
  const [catalogue, sites] = await Promise.all([loadCatalogue(), ask(api.GET('/sites'))])
  return { catalogue, sites }
})
const form = reactive({ factor: '', place: '', from: session.value?.today ?? '', to: '', note: '' })
const { busy, refused, submit } = useSubmit()

/** Every place a factor can be at work, from wide to narrow; units are found by what is typed. */
const units = ref<Schemas['SearchHit'][]>([])
async function find(text: string) {
  if (!text.trim()) return
  try {
    units.value = (await ask(api.GET('/search', { params: { query: { q: text } } }))).filter(
      (h) => h.kind === 'unit',
    )
  } catch (e) {
    refused.value = problemOf(e)
  }
  typed.value = text.toLowerCase()
}
const typed = ref('')
const places = computed(() =>
  [
    ...(data.value?.sites ?? []).flatMap((s) => [
      { value: `site ${s.id}`, label: `${s.name}: whole site` },
      ...s.placements.map((p) => ({ value: `placement ${p.id}`, label: `${s.name}: ${p.name}` })),
    ]),
  ]
    .filter((p) => !typed.value || p.label.toLowerCase().includes(typed.value) || p.value === form.place)
    .concat(units.value.map((u) => ({ value: `unit ${u.id}`, label: `only ${u.label}, ${u.detail}` }))),
)

async function save() {
  const [scope, id] = form.place.split(' ')
  await submit(async () => {
    await ask(
      api.POST('/site-factors', {
        body: {
          factor_id: form.factor,
          scope: scope as Schemas['FactorScope'],
          scope_id: id ?? '',
          from: form.from,
          to: form.to || undefined,
          note: form.note || undefined,
        },
      }),
    )
    await router.push('/portfolio')
  })
}
</script>

<template>
  <section class="screen narrow">
    <div class="screen-head">
      <div>
        <h1>Add a site factor</h1>
        <p class="soft">
          Something at a place that makes coils soil faster. It shortens the habit interval and raises the
          assumed rate.
        </p>
      </div>
    </div>
    <LoadState :loading="loading && !data" :problem="problem" what="the form" @retry="reload" />
    <form v-if="data" novalidate @submit.prevent="save">
      <ProblemNote :problem="refused" />
      <label class="field"
        ><span class="label">Factor</span>
        <ElSelect v-model="form.factor" filterable placeholder="choose" aria-label="Factor">
          <ElOption
            v-for="f in data.catalogue.factors"
            :key="f.id"
            :value="f.id"
            :label="`${f.name} ×${f.multiplier}`"
          />
        </ElSelect>
        <span class="soft">Multipliers are common practice, without a published source.</span>
        <FieldNote :problem="refused" at="/factor_id" />
      </label>
      <label class="field"
        ><span class="label">Where</span>
        <ElSelect
          v-model="form.place"
          filterable
          remote
          :remote-method="find"
          remote-show-suffix
          placeholder="choose, or type a site, placement or tag"
          aria-label="Where"
        >
          <ElOption v-for="p in places" :key="p.value" :value="p.value" :label="p.label" />
        </ElSelect>
        <FieldNote :problem="refused" at="/scope_id" />
      </label>
      <div class="fields">
        <label class="field"
          ><span class="label">From</span><ElInput v-model="form.from" type="date" /><FieldNote
            :problem="refused"
            at="/from"
        /></label>
        <label class="field"
          ><span class="label">Ends on (optional)</span><ElInput v-model="form.to" type="date" /><FieldNote
            :problem="refused"
            at="/to"
        /></label>
      </div>
      <label class="field"
        ><span class="label">Note</span><ElInput v-model="form.note" maxlength="500"
      /></label>
      <ElButton
        type="primary"
        native-type="submit"
        :loading="busy"
        :disabled="!form.factor || !form.place || !form.from"
        >Add the factor</ElButton
      >
    </form>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 640px;
}
</style>
