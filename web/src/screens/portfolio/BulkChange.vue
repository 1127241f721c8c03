<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'

import { api, ask, problemOf, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import NumberInput from '../../parts/NumberInput.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { session } from '../../session'
import { companionWords, count, kindWords } from '../../words'
import { useSubmit } from '../../parts/useSubmit'

/** One change to many units: chosen, previewed, then made; it can be undone. */
const props = defineProps<{ units: string[] }>()
const emit = defineEmits<{ close: []; changed: [] }>()

type What = Schemas['NewBulkChange']['what']
const whats: Record<What, string> = {
  interval: 'Interval of a clean',
  companion: 'Interval of a companion task',
  people: 'People needed',
  make: 'Maker',
  model: 'Model',
  refrigerant: 'Refrigerant',
  consequence_cost: 'Cost of a failure',
  energy_kwh_day: 'Energy a day',
}
const form = reactive({
  what: 'interval' as What,
  kind: 'light',
  days: undefined as unknown,
  text: '',
  number: undefined as unknown,
  reason: '',
})
const preview = ref<Schemas['BulkChange'] | null>(null)
const made = ref<Schemas['BulkChange'] | null>(null)
const { busy, refused, submit } = useSubmit()

const kinds = computed<Record<string, string>>(() => (form.what === 'companion' ? companionWords : kindWords))
const isText = computed(() => ['make', 'model', 'refrigerant'].includes(form.what))
const numeric = computed(() => ['people', 'consequence_cost', 'energy_kwh_day'].includes(form.what))
const unit = computed(() =>
  form.what === 'energy_kwh_day'
    ? 'kWh'
    : form.what === 'consequence_cost'
      ? session.value?.currency
      : undefined,
)
const n = (v: unknown) => (typeof v === 'number' ? v : undefined)

async function send(dryRun: boolean) {
  busy.value = true
  refused.value = null
  try {
    const answer = await ask(
      api.POST('/bulk-changes', {
        body: {
          unit_ids: props.units,
          what: form.what,
          dry_run: dryRun,
          kind: (form.what === 'interval' || form.what === 'companion'
            ? form.kind
            : undefined) as Schemas['NewBulkChange']['kind'],
          days: n(form.days),
          text: isText.value ? form.text : undefined,
          number: numeric.value ? n(form.number) : undefined,
          reason: form.reason || undefined,
        },
      }),
    )
    if (dryRun) preview.value = answer
    else {
      made.value = answer
      preview.value = null
      emit('changed')
    }
  } catch (e) {
    refused.value = problemOf(e)
    preview.value = null
  } finally {
    busy.value = false
  }
}
async function undo() {
  const id = made.value?.id
  if (!id) return
  await submit(async () => {
    made.value = await ask(
      api.POST('/bulk-changes/{change_id}/undo', { params: { path: { change_id: id } } }),
    )
    emit('changed')
  })
}
const changing = computed(() => preview.value?.lines.filter((l) => !l.skipped).length ?? 0)
const first = () => {
  form.kind = form.what === 'companion' ? 'filter' : 'light'
  preview.value = null
}
</script>

<template>
  <div class="sheet" role="region" aria-label="Change in bulk">
    <div class="head">
      <h2>Change {{ count(units.length, 'unit') }}</h2>
      <ElButton @click="$emit('close')">Close</ElButton>
    </div>
    <ProblemNote :problem="refused" />
    <template v-if="made">
      <p>
        <strong>{{ made.undone ? 'Undone' : 'Made' }}: {{ made.what }}</strong> at
        {{ count(made.lines.filter((l) => !l.skipped).length, 'place') }}.
        <ElButton v-if="!made.undone" size="small" @click="undo">Undo</ElButton>
      </p>
    </template>
    <form v-else novalidate @submit.prevent="send(true)">
      <div class="fields">
        <label class="field"
          ><span class="label">What</span>
          <ElSelect v-model="form.what" aria-label="What" @change="first">
            <ElOption v-for="(w, k) in whats" :key="k" :value="k" :label="w" />
          </ElSelect>
        </label>
        <label v-if="form.what === 'interval' || form.what === 'companion'" class="field"
          ><span class="label">Which</span>
          <ElSelect v-model="form.kind" aria-label="Which" @change="preview = null">
            <ElOption v-for="(w, k) in kinds" :key="k" :value="k" :label="w" />
          </ElSelect>
          <FieldNote :problem="refused" at="/kind" />
        </label>
        <label v-if="form.what === 'interval' || form.what === 'companion'" class="field"
          ><span class="label">Every</span><NumberInput v-model="form.days" unit="d" name="days" /><FieldNote
            :problem="refused"
            at="/days"
        /></label>
        <label v-if="isText" class="field"
          ><span class="label">To</span><ElInput v-model="form.text" maxlength="120" name="text" /><FieldNote
            :problem="refused"
            at="/text"
        /></label>
        <label v-if="numeric" class="field"
          ><span class="label">To</span
          ><NumberInput v-model="form.number" :unit="unit" name="number" /><FieldNote
            :problem="refused"
            at="/number"
        /></label>
        <label v-if="form.what === 'interval'" class="field"
          ><span class="label">Reason</span
          ><ElInput v-model="form.reason" maxlength="1000" name="reason" /><FieldNote
            :problem="refused"
            at="/reason"
        /></label>
      </div>
      <ElButton native-type="submit" :loading="busy">Preview</ElButton>
      <template v-if="preview">
        <table class="lines preview">
          <thead>
            <tr>
              <th scope="col">Unit</th>
              <th scope="col">What</th>
              <th scope="col">Now</th>
              <th scope="col">After</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(l, i) in preview.lines" :key="i">
              <td>{{ l.tag }}</td>
              <td>{{ l.what }}</td>
              <td>{{ l.from || '(empty)' }}</td>
              <td>
                <span v-if="l.skipped" class="soft">{{ l.skipped }}</span><strong v-else>{{
                  l.to || '(empty)'
                }}</strong>
              </td>
            </tr>
          </tbody>
        </table>
        <ElButton type="primary" :loading="busy" :disabled="!changing" @click="send(false)"
          >Change {{ count(changing, 'place') }}</ElButton
        >
      </template>
    </form>
  </div>
</template>

<style scoped>
.sheet {
  background: var(--sheet);
  border: 1px solid var(--hairline);
  padding: 12px 18px;
  margin: 6px 0 14px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 8px;
}
.preview {
  display: block;
  max-height: 300px;
  overflow: auto;
  margin: 10px 0;
}
</style>
