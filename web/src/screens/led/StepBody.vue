<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import { upperFirst } from '../../words'
import TapChoice from '../../parts/TapChoice.vue'
import type { Ask } from './judged'
import type { Step, Work } from './ledVisit'
import PhotoStrip from './PhotoStrip.vue'
import { formOf } from './stepForms'

/** An open step: why it is there, its part of the record, and how it ended. */
const props = defineProps<{
  step: Step
  pack: Schemas['VisitPack']
  sides: { id: string; name: string }[]
  guest: boolean
  shut: Step | null
  /** What stands in the way of ticking it. */
  waits: string[]
  /** Findings that are asked about once. */
  asks: Ask[]
  /** This step and those after it that ask for nothing. */
  run: Step[]
}>()
const emit = defineEmits<{ mark: [state: 'done' | 'skipped', reason: string]; undo: []; markRun: [] }>()
const work = defineModel<Work>({ required: true })
const form = computed(() => formOf(props.step))
const ended = computed(() => work.value.steps[props.step.code])
const skipping = ref(false)
const why = ref('')
const photoPhase = computed((): 'before' | 'after' | '' => {
  const f = props.step.form
  return f === 'opened_up' || f === 'first_look' ? 'before' : f === 'as_left' ? 'after' : ''
})
const timeOf = (at: string) => new Date(at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <div class="body">
    <p class="why">{{ upperFirst(step.why) }}.</p>
    <p v-for="c in step.cautions ?? []" :key="c" class="caution">{{ c }}</p>
    <p v-if="shut" class="notice">First: {{ shut.text }}.</p>
    <component
      :is="form.part"
      v-if="form"
      :key="step.code"
      v-bind="form.props({ step, pack, guest })"
      v-model="work"
    />
    <PhotoStrip
      v-if="step.photo"
      v-model="work"
      :step="step.code"
      :ask="step.photo"
      :phase="photoPhase"
      :sides="sides"
    />
    <div v-if="ended" class="row">
      <p class="soft">
        {{ ended.state === 'done' ? 'Done' : 'Skipped' }} {{ timeOf(ended.at)
        }}<template v-if="ended.reason">: {{ ended.reason }}</template>
      </p>
      <button type="button" class="quiet" @click="emit('undo')">Not done: undo</button>
    </div>
    <div v-else-if="skipping" class="skip">
      <label class="field"
        ><span class="label">{{
          step.gate ? 'Why it is skipped; the manager will see it' : 'Why it is skipped'
        }}</span
        ><input v-model="why" class="plain-input" maxlength="500"
      /></label>
      <div class="row">
        <button
          type="button"
          class="big"
          :disabled="step.gate && !why.trim()"
          @click="emit('mark', 'skipped', why.trim())"
        >
          Skip it
        </button>
        <button type="button" class="quiet" @click="skipping = false">Back</button>
      </div>
    </div>
    <div v-for="a in asks" :key="a.key" class="notice">
      <p>{{ a.text }}</p>
      <TapChoice
        v-model="work.sure[a.key]!"
        hide-label
        :label="a.text"
        :options="[
          { value: true, label: 'Yes, I looked again' },
          { value: false, label: 'No: I correct it' },
        ]"
      />
    </div>
    <ul v-if="waits.length && !ended" class="waits" aria-label="Before it is done">
      <li v-for="w in waits" :key="w">{{ upperFirst(w) }}</li>
    </ul>
    <div v-if="!ended && !skipping" class="row">
      <button
        type="button"
        class="big"
        :disabled="!!shut || waits.length > 0"
        @click="emit('mark', 'done', '')"
      >
        Done
      </button>
      <button type="button" class="quiet" :disabled="!!shut" @click="skipping = true">Skip …</button>
    </div>
    <button
      v-if="!ended && !skipping && run.length > 1"
      type="button"
      class="all"
      :disabled="!!shut"
      @click="emit('markRun')"
    >
      All done: {{ run.map((s) => s.text.charAt(0).toLowerCase() + s.text.slice(1)).join('; ') }}
    </button>
  </div>
</template>

<style scoped>
.body {
  padding: 0 0 12px 38px;
}
@media (max-width: 560px) {
  .body {
    padding-left: 0;
  }
}
.why {
  color: var(--ink-soft);
  margin-bottom: 8px;
}
.caution {
  border-left: 4px solid var(--danger);
  padding-left: 10px;
  margin: 0 0 8px;
}
.all {
  width: 100%;
  min-height: 46px;
  margin-top: 8px;
  padding: 6px 12px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.waits {
  margin: 10px 0 0;
  padding-left: 18px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 10px;
}
.row p {
  flex: 1;
  margin: 0;
}
.row .big {
  flex: 2;
}
.row .quiet {
  flex: 1;
}
</style>
