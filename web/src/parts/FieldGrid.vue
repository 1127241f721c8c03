<script setup lang="ts">
import { ElCheckbox, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'

import type { ApiProblem } from '../api/client'
import FieldNote from './FieldNote.vue'
import type { Field } from './fields'
import NumberInput from './NumberInput.vue'

/** The fields of a record, described once; what is wrong with one stands under it. */
const props = defineProps<{
  fields: Field[]
  problem: ApiProblem | null
  /** Where in the request the record stands, such as /card. */
  at: string
  dense?: boolean
  disabled?: boolean
}>()
const record = defineModel<Record<string, unknown>>({ required: true })

const text = (f: Field): string => {
  const v = record.value[f.key]
  return v === undefined || v === null ? '' : String(v)
}
function put(f: Field, v: unknown) {
  record.value = { ...record.value, [f.key]: f.kind === 'day' && v === '' ? undefined : v }
}
const seen = (f: Field) => !f.when || f.when(record.value)
/** What is ticked or not stands together under the rest. */
const flags = computed(() => props.fields.filter((f) => f.kind === 'flag' && seen(f)))
const at = (f: Field) => `${props.at}/${f.key}`
</script>

<template>
  <div class="fields" :class="{ dense }">
    <template v-for="f in fields" :key="f.key">
      <div v-if="f.kind !== 'flag' && seen(f)" class="field" :class="{ wide: f.kind === 'long' }">
        <label>
          <span class="label">{{ f.label }}</span>
          <ElSelect
            v-if="f.kind === 'choice'"
            :model-value="record[f.key] as string"
            :aria-label="f.label"
            :disabled="disabled"
            :filterable="(f.options?.length ?? 0) > 8"
            @update:model-value="(v: unknown) => put(f, v)"
          >
            <ElOption v-for="o in f.options" :key="o.value" :value="o.value" :label="o.label" />
          </ElSelect>
          <NumberInput
            v-else-if="f.kind === 'number' || f.kind === 'integer'"
            :model-value="record[f.key]"
            :quantity="f.quantity"
            :unit="f.unit"
            :name="f.key"
            :disabled="disabled"
            @update:model-value="(v: unknown) => put(f, v)"
          />
          <ElInput
            v-else
            :model-value="text(f)"
            :type="
              f.kind === 'day' ? 'date' : f.kind === 'time' ? 'time' : f.kind === 'long' ? 'textarea' : 'text'
            "
            :rows="2"
            :maxlength="f.longest"
            :disabled="disabled"
            :name="f.key"
            @update:model-value="(v: string) => put(f, v)"
          />
        </label>
        <span v-if="f.hint" class="soft">{{ f.hint }}</span>
        <FieldNote :problem="problem" :at="at(f)" />
      </div>
    </template>
    <div v-if="flags.length" class="flags">
      <div v-for="f in flags" :key="f.key">
        <ElCheckbox
          :model-value="Boolean(record[f.key])"
          :disabled="disabled"
          @update:model-value="(v: unknown) => put(f, Boolean(v))"
          >{{ f.label }}</ElCheckbox
        >
        <span v-if="f.hint" class="soft">{{ f.hint }}</span>
        <FieldNote :problem="problem" :at="at(f)" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.fields > .wide,
.flags {
  grid-column: 1 / -1;
}
.flags {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 28px;
  margin-bottom: 6px;
}
.fields.dense {
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 0 14px;
}
.fields.dense .field {
  margin-bottom: 6px;
}
</style>
