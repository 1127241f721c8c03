<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import { refusal } from '../../offline/device'
import { flush, giveBack, putInOutbox } from '../../offline/outbox'
import TapChoice from '../../parts/TapChoice.vue'
import { outcomeWords } from '../../words'
import type { DayUnit } from './day'

/** Why a unit's work is not done: it goes back to the office, which plans it again. */
const props = defineProps<{ unit: DayUnit; round: Schemas['Round'] }>()
const emit = defineEmits<{ done: [] }>()
const why = ref<string>('')
const note = ref('')
const broken = ref('')
/** Where somebody was there and could not work, it is a visit; else the job is given back. */
const visits = ['no_access', 'refused', 'weather', 'unsafe', 'not_found'] as const
const returns = {
  no_time: 'No time left',
  called_away: 'Called away',
  missing: 'Kit or parts missing',
  other: 'Something else',
} as const
const options = computed(() => [
  ...visits.map((v) => ({ value: v as string, label: outcomeWords[v] })),
  ...Object.entries(returns).map(([value, label]) => ({ value, label })),
])
async function send() {
  const outcome = visits.find((v) => v === why.value)
  try {
    if (outcome) {
      await putInOutbox({
        key: crypto.randomUUID(),
        tag: props.unit.tag,
        visit: {
          unit_id: props.unit.unit_id,
          day: props.round.day,
          outcome,
          note: note.value.trim(),
          cautions_read: true,
          source: 'phone',
          people: [],
          coils: [],
          jobs: props.unit.visit_for,
        },
        photos: [],
        work: JSON.stringify({ unit_id: props.unit.unit_id }),
        token: '',
      })
    } else {
      for (const j of props.unit.jobs)
        await giveBack({
          key: crypto.randomUUID(),
          round_id: props.round.id,
          unit_id: props.unit.unit_id,
          tag: props.unit.tag,
          body: { key: j.key, kind: why.value as keyof typeof returns, note: note.value.trim() },
        })
    }
    void flush()
    emit('done')
  } catch (e) {
    broken.value = refusal(e)
  }
}
</script>

<template>
  <div class="notice">
    <p v-if="broken" class="field-error" role="alert">{{ broken }}</p>
    <TapChoice v-model="why" :label="`Why ${unit.tag} is not done`" :options="options" />
    <label class="field"
      ><span class="label">In a few words, for the office</span
      ><input
        v-model="note"
        class="plain-input"
        maxlength="500"
        :name="`why-${unit.tag}`"
        placeholder="for example: gate locked, nobody answers"
    /></label>
    <button type="button" class="big" :disabled="!why || !note.trim()" @click="send">
      Send to the office
    </button>
  </div>
</template>

<style scoped>
.big {
  width: 100%;
}
</style>
