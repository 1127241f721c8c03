<script setup lang="ts">
import { ElButton, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { reactive, ref } from 'vue'

import { api, ask, type Schemas } from '../../api/client'
import FieldNote from '../../parts/FieldNote.vue'
import { useSubmit } from '../../parts/useSubmit'
import { mayManage } from '../../session'
import { capWords } from '../../words'

/** Hard caps on a task's interval: contract, maker, hygiene, and how often a strong cleaner may be used. */
const props = defineProps<{ task: Schemas['Task'] }>()
const emit = defineEmits<{ changed: [] }>()
const adding = ref(false)
const form = reactive({
  kind: 'contract' as Schemas['CapKind'],
  most_days: 91 as number | undefined,
  times_a_year: 4 as number | undefined,
  note: '',
})
const { busy, refused, submit } = useSubmit()
const says = (c: Schemas['Cap']) =>
  c.kind === 'chemistry' ? `at most ${c.times_a_year} times a year` : `at most ${c.most_days} d`
const add = () =>
  submit(async () => {
    await ask(
      api.POST('/tasks/{task_id}/caps', {
        params: { path: { task_id: props.task.task_id } },
        body: {
          kind: form.kind,
          most_days: form.kind === 'chemistry' ? undefined : form.most_days,
          times_a_year: form.kind === 'chemistry' ? form.times_a_year : undefined,
          note: form.note,
        },
      }),
    )
    adding.value = false
    emit('changed')
  })
const remove = (id: string) =>
  submit(async () => {
    await ask(api.DELETE('/caps/{cap_id}', { params: { path: { cap_id: id } } }))
    emit('changed')
  })
</script>

<template>
  <div class="caps">
    <ul v-if="task.caps?.length">
      <li v-for="c in task.caps" :key="c.id">
        {{ capWords[c.kind] }}: {{ says(c) }}<span v-if="c.note" class="soft"> {{ c.note }}</span>
        <button
          v-if="mayManage()"
          type="button"
          class="link"
          :aria-label="`Remove the cap: ${capWords[c.kind]}`"
          @click="remove(c.id)"
        >
          Remove
        </button>
      </li>
    </ul>
    <template v-if="mayManage()">
      <button v-if="!adding" type="button" class="link" @click="adding = true">Add a hard cap</button>
      <form v-else novalidate @submit.prevent="add">
        <label class="field"
          ><span class="label">Comes from</span>
          <ElSelect v-model="form.kind" aria-label="Cap comes from">
            <ElOption v-for="(w, k) in capWords" :key="k" :value="k" :label="w" />
          </ElSelect>
        </label>
        <label v-if="form.kind === 'chemistry'" class="field"
          ><span class="label">At most, times a year</span>
          <ElInputNumber v-model="form.times_a_year" :min="0.1" :max="366" aria-label="Times a year" />
          <FieldNote :problem="refused" at="/times_a_year" />
        </label>
        <label v-else class="field"
          ><span class="label">At most, days</span>
          <ElInputNumber v-model="form.most_days" :min="1" :max="3650" aria-label="Days at most" />
          <FieldNote :problem="refused" at="/most_days" />
        </label>
        <label class="field"
          ><span class="label">Where it is written</span>
          <ElInput v-model="form.note" maxlength="200" name="cap-note" />
        </label>
        <div class="actions">
          <ElButton type="primary" native-type="submit" size="small" :loading="busy">Add the cap</ElButton>
          <ElButton size="small" @click="adding = false">Cancel</ElButton>
        </div>
      </form>
    </template>
    <span v-if="refused && !refused.fields.length" class="field-error" role="alert">{{
      refused.message
    }}</span>
  </div>
</template>

<style scoped>
.caps {
  margin-top: 8px;
  font-size: 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.link {
  line-height: 24px;
}
</style>
