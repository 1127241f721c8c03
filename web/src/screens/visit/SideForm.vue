<script setup lang="ts">
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { useId } from 'vue'

import type { Schemas } from '../../api/client'
import GradePicker from '../../parts/GradePicker.vue'
import { seenWords, upperFirst } from '../../words'
import type { SideDraft } from './draft'

/** One coil side: reached or why not, what was found once opened up; after the work, how it was left. */
withDefaults(
  defineProps<{ side: string; soils: Schemas['Choice'][]; why: (rest: string) => string; after?: boolean }>(),
  {
    after: false,
  },
)
const model = defineModel<SideDraft>({ required: true })
const id = useId()
</script>

<template>
  <section v-if="!after" class="side" :aria-label="side">
    <h3>{{ upperFirst(side) }}</h3>
    <div class="reach" role="radiogroup" :aria-label="`${side}: reached?`">
      <label :class="{ on: model.reached === true }">
        <input
          v-model="model.reached"
          type="radio"
          class="visually-hidden"
          :name="`${id}-reached`"
          :value="true"
        />Reached
      </label>
      <label :class="{ on: model.reached === false }">
        <input
          v-model="model.reached"
          type="radio"
          class="visually-hidden"
          :name="`${id}-reached`"
          :value="false"
        />Not reached
      </label>
    </div>
    <span v-if="why('/reached')" class="field-error" role="alert">{{ why('/reached') }}</span>
    <label v-if="model.reached === false" class="field"
      ><span class="label">Why not</span>
      <ElInput
        v-model="model.why_not"
        size="large"
        maxlength="300"
        placeholder="for example: behind the cable tray"
      />
      <span v-if="why('/why_not')" class="field-error" role="alert">{{ why('/why_not') }}</span>
    </label>
    <template v-if="model.reached">
      <GradePicker v-model="model.found" label="Found, once opened up" :name="`${id}-found`" />
      <span v-if="why('/found')" class="field-error" role="alert">{{ why('/found') }}</span>
      <div class="fields">
        <label class="field"
          ><span class="label">Seen by</span>
          <ElSelect v-model="model.seen" size="large" :aria-label="`${side}: found, seen by`">
            <ElOption v-for="(w, k) in seenWords" :key="k" :value="k" :label="w" />
          </ElSelect>
        </label>
        <label class="field"
          ><span class="label">Soil</span>
          <ElSelect
            v-model="model.soils"
            multiple
            size="large"
            placeholder="what it is"
            :aria-label="`${side}: soil`"
          >
            <ElOption v-for="s in soils" :key="s.id" :value="s.id" :label="s.name" />
          </ElSelect>
        </label>
      </div>
    </template>
  </section>
  <section v-else-if="model.reached" class="side" :aria-label="`${side}, as left`">
    <GradePicker v-model="model.left" :label="`${upperFirst(side)}: as left`" :name="`${id}-left`" />
    <span v-if="why('/left')" class="field-error" role="alert">{{ why('/left') }}</span>
    <label class="field short"
      ><span class="label">Seen by</span>
      <ElSelect v-model="model.left_seen" size="large" :aria-label="`${side}: as left, seen by`">
        <ElOption v-for="(w, k) in seenWords" :key="k" :value="k" :label="w" />
      </ElSelect>
    </label>
  </section>
</template>

<style scoped>
.side {
  border-top: 1px solid var(--hairline);
  padding: 10px 0 4px;
}
.side h3 {
  margin-bottom: 6px;
}
.reach {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}
.reach label {
  position: relative;
  flex: 1;
  max-width: 200px;
  min-height: 46px;
  display: flex;
  align-items: center;
  justify-content: center;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--sheet);
  cursor: pointer;
}
.reach label.on {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
  font-weight: 600;
}
.reach label:focus-within {
  outline: 2px solid var(--petrol);
  outline-offset: 2px;
}
.short {
  max-width: 260px;
}
</style>
