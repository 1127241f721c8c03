<script setup lang="ts">
import { ElInputNumber } from 'element-plus'
import { ref } from 'vue'

import type { Schemas } from '../../api/client'
import { session } from '../../session'
import { planWords } from './planWords'

/** What taking a cause of the dirt away would bring, and how soon that has paid. */
defineProps<{ causes: Schemas['CauseRemoved'][] }>()
const once = ref<number | undefined>()
const money = (v: number) => `${v.toFixed(0)} ${session.value?.currency ?? ''}`
/** The work plan that would be cheapest then, where it is another one. */
function other(c: Schemas['CauseRemoved']) {
  if (!c.without_plan || !c.with_plan) return ''
  const then = planWords(c.without_plan)
  return then === planWords(c.with_plan) ? '' : `${then.toLowerCase()}, `
}
function payback(c: Schemas['CauseRemoved']) {
  if (!once.value || c.saved_year <= 0) return ''
  const years = once.value / c.saved_year
  return years < 2
    ? `paid back in ${Math.max(1, Math.round(12 * years))} months`
    : `paid back in ${years.toFixed(1)} years`
}
</script>

<template>
  <section aria-label="Causes to take away">
    <h2>If the cause were removed</h2>
    <ul class="plain">
      <li v-for="c in causes" :key="c.factor_id">
        Without {{ c.factor.toLowerCase() }} (×{{ c.multiplier }}): {{ other(c)
        }}<strong>every {{ Math.round(c.without_days) }} d</strong> instead of {{ Math.round(c.with_days) }} d
        would be cheapest,
        {{ c.saved_year < 0.5 ? 'at the same money' : 'saving' }}
        <template v-if="c.saved_year >= 0.5"
          ><strong>{{ money(c.saved_year) }}</strong> a year</template
        ><template v-if="payback(c)">; {{ payback(c) }}</template
        >.
      </li>
    </ul>
    <label class="field once"
      ><span class="label">Taking it away costs, {{ session?.currency }}</span>
      <ElInputNumber v-model="once" :min="0" :controls="false" aria-label="Taking the cause away costs" />
    </label>
  </section>
</template>

<style scoped>
h2 {
  margin: 20px 0 6px;
}
.plain {
  list-style: none;
  margin: 0;
  padding: 0;
}
.plain li {
  padding: 3px 0;
}
.once {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
