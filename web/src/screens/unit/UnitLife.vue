<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useLoad } from '../../parts/useLoad'
import { mayManage, session } from '../../session'
import { shortDay } from '../../words'
import { useSubmit } from '../../parts/useSubmit'

/** Where a unit stood, when it was out of service, and the steps of its life: moved, paused, replaced, retired. */
const props = defineProps<{ record: Schemas['UnitRecord'] }>()
const emit = defineEmits<{ changed: [record: Schemas['UnitRecord']] }>()
const router = useRouter()
type Step = '' | 'move' | 'pause' | 'resume' | 'replace' | 'retire'
const step = ref<Step>('')
const form = reactive({
  day: session.value?.today ?? '',
  reason: '',
  placement: '',
  tag: '',
  make: '',
  model: '',
  serial: '',
})
const { busy, refused, submit } = useSubmit()
const sites = useLoad(() => ask(api.GET('/sites')))
const places = computed(() =>
  (sites.data.value ?? []).flatMap((s) =>
    s.placements.map((p) => ({ id: p.id, label: `${s.name}: ${p.name}` })),
  ),
)
const words: Record<Exclude<Step, ''>, string> = {
  move: 'Move it',
  pause: 'Take it out of service',
  resume: 'Back in service',
  replace: 'Replace it',
  retire: 'Retire it',
}
const offered = computed<Exclude<Step, ''>[]>(() =>
  props.record.status === 'retired'
    ? []
    : ['move', props.record.status === 'out_of_service' ? 'resume' : 'pause', 'replace', 'retire'],
)
const range = (x: { from?: string; to?: string }) =>
  `${x.from ? shortDay(x.from) : 'ever'} – ${x.to ? shortDay(x.to) : 'now'}`

async function send() {
  const path = { path: { unit_id: props.record.id } }
  await submit(async () => {
    if (step.value === 'replace') {
      const made = await ask(
        api.POST('/units/{unit_id}/replacement', {
          params: path,
          body: {
            day: form.day,
            tag: form.tag,
            reason: form.reason,
            make: form.make || undefined,
            model: form.model || undefined,
            serial: form.serial || undefined,
          },
        }),
      )
      await router.push(`/units/${made.id}`)
      return
    }
    const body = { day: form.day, reason: form.reason }
    const answer = await ask(
      step.value === 'move'
        ? api.POST('/units/{unit_id}/moves', {
            params: path,
            body: { day: form.day, placement_id: form.placement },
          })
        : step.value === 'pause'
          ? api.POST('/units/{unit_id}/pauses', { params: path, body })
          : step.value === 'resume'
            ? api.POST('/units/{unit_id}/resumption', { params: path, body: { day: form.day } })
            : api.POST('/units/{unit_id}/retirement', { params: path, body }),
    )
    step.value = ''
    form.reason = ''
    emit('changed', answer)
  })
}
const ready = computed(() => {
  if (!form.day) return false
  if (step.value === 'move') return form.placement !== ''
  if (step.value === 'resume') return true
  if (step.value === 'replace') return form.reason.trim() !== '' && form.tag.trim() !== ''
  return form.reason.trim() !== ''
})
</script>

<template>
  <fieldset class="part">
    <legend>Where it has been</legend>
    <ul class="plain">
      <li v-for="(s, i) in record.stays" :key="i">{{ range(s) }}: {{ s.site }}, {{ s.placement }}</li>
      <li v-for="(p, i) in record.pauses" :key="`p${i}`">
        {{ range(p) }}: out of service, {{ p.reason }}. It did not soil meanwhile.
      </li>
      <li v-if="record.retired">
        Retired {{ shortDay(record.retired) }}.
        <RouterLink v-if="record.replaced_by" :to="`/units/${record.replaced_by}`"
          >What replaced it</RouterLink
        >
      </li>
    </ul>
    <div v-if="mayManage()" class="actions">
      <ElButton
        v-for="s in offered"
        :key="s"
        :type="s === step ? 'primary' : undefined"
        @click="step = step === s ? '' : s"
        >{{ words[s] }}</ElButton
      >
    </div>
    <form v-if="step" novalidate class="step" @submit.prevent="send">
      <ProblemNote :problem="refused" />
      <div class="fields">
        <label v-if="step === 'move'" class="field"
          ><span class="label">To</span>
          <ElSelect v-model="form.placement" filterable aria-label="To" placeholder="choose">
            <ElOption v-for="p in places" :key="p.id" :value="p.id" :label="p.label" />
          </ElSelect>
          <FieldNote :problem="refused" at="/placement_id" />
        </label>
        <label class="field"
          ><span class="label">On</span
          ><ElInput v-model="form.day" type="date" :max="session?.today" /><FieldNote
            :problem="refused"
            at="/day"
        /></label>
        <label v-if="step !== 'move' && step !== 'resume'" class="field"
          ><span class="label">Reason</span><ElInput v-model="form.reason" maxlength="300" /><FieldNote
            :problem="refused"
            at="/reason"
        /></label>
        <template v-if="step === 'replace'">
          <label class="field"
            ><span class="label">Tag of the new unit</span
            ><ElInput v-model="form.tag" maxlength="60" /><FieldNote :problem="refused" at="/tag"
          /></label>
          <label class="field"
            ><span class="label">Maker</span><ElInput v-model="form.make" maxlength="120"
          /></label>
          <label class="field"
            ><span class="label">Model</span><ElInput v-model="form.model" maxlength="120"
          /></label>
          <label class="field"
            ><span class="label">Serial number</span><ElInput v-model="form.serial" maxlength="120"
          /></label>
        </template>
      </div>
      <p v-if="step === 'retire' || step === 'replace'" class="soft">
        This cannot be undone: a retired unit remains in the records only.
      </p>
      <ElButton type="primary" native-type="submit" :loading="busy" :disabled="!ready">{{
        words[step]
      }}</ElButton>
    </form>
  </fieldset>
</template>

<style scoped>
.plain {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.plain li {
  padding: 3px 0;
}
.step {
  margin-top: 12px;
}
</style>
