<script setup lang="ts">
import { ElButton, ElCheckbox, ElCheckboxGroup, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { loadCatalogue, session } from '../../session'
import { roleWords, settingWords, yesNoWords } from '../../words'
import { useSubmit } from '../../parts/useSubmit'

const route = useRoute()
const router = useRouter()
const { data, problem, loading, reload } = useLoad(async () => {
  const [catalogue, sites] = await Promise.all([loadCatalogue(), ask(api.GET('/sites'))])
  return { catalogue, sites }
})

const form = reactive({
  site: typeof route.query.site === 'string' ? route.query.site : '',
  placement: typeof route.query.placement === 'string' ? route.query.placement : '',
  setting: 'unstated' as Schemas['Setting'],
  tag: typeof route.query.tag === 'string' ? route.query.tag : '',
  class: typeof route.query.class === 'string' ? route.query.class : '',
  roles: [] as Schemas['CoilRole'][],
  quality: 'unknown' as Schemas['LastCleanQuality'],
  day: '',
  commissioned: '',
  make: '',
  model: '',
  refrigerant: '',
  flammable: 'unknown' as Schemas['YesNo'],
  note: '',
})
const { busy, refused, submit } = useSubmit()
const chosen = computed(() => data.value?.catalogue.classes.find((c) => c.code === form.class))
const placements = computed(() => data.value?.sites.find((s) => s.name === form.site)?.placements ?? [])
const dated = computed(() => form.quality === 'exact' || form.quality === 'about')
watch(chosen, (c) => (form.roles = c ? [...c.coil_roles] : []))
/** A unit that somebody met on site: once it is added, that is decided. */
const found = typeof route.query.found === 'string' ? route.query.found : ''

const qualities: { value: Schemas['LastCleanQuality']; label: string }[] = [
  { value: 'exact', label: 'on a known day' },
  { value: 'about', label: 'about a day' },
  { value: 'never', label: 'never' },
  { value: 'unknown', label: 'not known' },
]

async function save() {
  await submit(async () => {
    const made = await ask(
      api.POST('/units', {
        body: {
          site: form.site,
          placement: form.placement,
          setting: form.setting,
          tag: form.tag,
          class: form.class,
          coil_roles: form.roles,
          commissioned: form.commissioned || undefined,
          make: form.make || undefined,
          model: form.model || undefined,
          refrigerant: form.refrigerant || undefined,
          flammable: form.flammable,
          note: form.note || undefined,
          last_clean: { quality: form.quality, day: dated.value && form.day ? form.day : undefined },
        },
      }),
    )
    if (found)
      await ask(
        api.POST('/found-units/{found_id}/decision', {
          params: { path: { found_id: found } },
          body: { unit_id: made.id },
        }),
      )
    await router.push(`/units/${made.id}`)
  })
}
</script>

<template>
  <section class="screen narrow">
    <div class="screen-head"><h1>Add a unit</h1></div>
    <LoadState :loading="loading && !data" :problem="problem" what="the form" @retry="reload" />
    <form v-if="data" novalidate @submit.prevent="save">
      <ProblemNote :problem="refused" />
      <div class="fields">
        <label class="field"
          ><span class="label">Tag</span><ElInput v-model="form.tag" name="tag" maxlength="60" /><FieldNote
            :problem="refused"
            at="/tag"
        /></label>
        <label class="field"
          ><span class="label">Class</span>
          <ElSelect v-model="form.class" filterable placeholder="choose" aria-label="Class">
            <ElOption v-for="c in data.catalogue.classes" :key="c.id" :value="c.code" :label="c.name" />
          </ElSelect>
          <FieldNote :problem="refused" at="/class" />
        </label>
        <label class="field"
          ><span class="label">Site</span>
          <ElSelect
            v-model="form.site"
            filterable
            allow-create
            default-first-option
            placeholder="choose, or type a new one"
            aria-label="Site"
          >
            <ElOption v-for="s in data.sites" :key="s.id" :value="s.name" :label="s.name" />
          </ElSelect>
          <FieldNote :problem="refused" at="/site" />
        </label>
        <label class="field"
          ><span class="label">Placement</span>
          <ElSelect
            v-model="form.placement"
            filterable
            allow-create
            default-first-option
            placeholder="choose, or type a new one"
            aria-label="Placement"
          >
            <ElOption v-for="p in placements" :key="p.id" :value="p.name" :label="p.name" />
          </ElSelect>
          <FieldNote :problem="refused" at="/placement" />
        </label>
        <label class="field"
          ><span class="label">The new placement is</span>
          <ElSelect v-model="form.setting" aria-label="Kind of placement">
            <ElOption v-for="(w, k) in settingWords" :key="k" :value="k" :label="w" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Commissioned, if known</span
          ><ElInput v-model="form.commissioned" type="date" :max="session?.today" /><FieldNote
            :problem="refused"
            at="/commissioned"
        /></label>
        <label class="field"
          ><span class="label">Maker, if known</span><ElInput v-model="form.make" maxlength="120"
        /></label>
        <label class="field"
          ><span class="label">Model, if known</span><ElInput v-model="form.model" maxlength="120"
        /></label>
        <label class="field"
          ><span class="label">Refrigerant, if known</span
          ><ElInput v-model="form.refrigerant" maxlength="20" placeholder="such as R-410A"
        /></label>
        <label class="field"
          ><span class="label">Its refrigerant burns</span>
          <ElSelect v-model="form.flammable" aria-label="Its refrigerant burns">
            <ElOption v-for="(w, k) in yesNoWords" :key="k" :value="k" :label="w" />
          </ElSelect>
          <FieldNote :problem="refused" at="/flammable" />
        </label>
      </div>
      <fieldset v-if="chosen" class="plain">
        <legend class="label">Coils</legend>
        <ElCheckboxGroup v-model="form.roles">
          <ElCheckbox v-for="r in chosen.coil_roles" :key="r" :value="r">{{ roleWords[r] }}</ElCheckbox>
        </ElCheckboxGroup>
        <p class="soft">
          {{ chosen.light_days ? `Light clean every ${chosen.light_days} d, ` : '' }}deep clean every
          {{ chosen.deep_days }} d to begin with ({{ chosen.source }}).
        </p>
      </fieldset>
      <div class="fields">
        <label class="field"
          ><span class="label">Last thorough clean</span>
          <ElSelect v-model="form.quality" aria-label="Last thorough clean">
            <ElOption v-for="q in qualities" :key="q.value" :value="q.value" :label="q.label" />
          </ElSelect>
        </label>
        <label v-if="dated" class="field"
          ><span class="label">Day</span
          ><ElInput v-model="form.day" type="date" :max="session?.today" /><FieldNote
            :problem="refused"
            at="/last_clean/day"
        /></label>
      </div>
      <ElButton type="primary" native-type="submit" :loading="busy">Add the unit</ElButton>
    </form>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 860px;
}
.plain {
  border: 0;
  padding: 0;
  margin: 0 0 12px;
}
</style>
