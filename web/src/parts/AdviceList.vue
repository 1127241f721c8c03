<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '../api/client'
import { session } from '../session'
import { figure } from '../units'
import { directionWords, gradeNames } from '../words'
import SiltGrade from './SiltGrade.vue'

/** Ways of cleaning in their order, each with what is to be expected, and all that is ruled out with its rule. */
const props = defineProps<{
  advice: Schemas['MethodAdvice']
  cleaners: Schemas['CleanerFacts'][]
  chosen?: { method: string; cleaner: string }
}>()
const aside = defineModel<Record<string, string>>('aside', { default: () => ({}) })
const emit = defineEmits<{ choose: [Schemas['AdviceOption']] }>()

const few = 3
const all = ref(false)
const shown = computed(() => (all.value ? props.advice.options : props.advice.options.slice(0, few)))
const isChosen = (o: Schemas['AdviceOption']) =>
  props.chosen?.method === o.method && props.chosen.cleaner === (o.cleaner ?? '')
const ratio = (parts: number) => `${Number(parts.toPrecision(3))}:1`
const minutes = (s: number) => Number((s / 60).toPrecision(2))
const groups = computed(() => {
  const by = new Map<string, { ban: Schemas['Ban']; names: string[] }>()
  for (const r of props.advice.ruled_out) {
    const g = by.get(r.ban.code) ?? { ban: r.ban, names: [] }
    const name = [r.method_name, r.cleaner_name].filter(Boolean).join(' with ')
    if (name && !g.names.includes(name)) g.names.push(name)
    by.set(r.ban.code, g)
  }
  return [...by.values()].sort((a, b) => Number(a.ban.hard) - Number(b.ban.hard))
})
const assumedWords: Record<string, string> = {
  setting: 'indoors, as the place is not stated',
  construction: 'the stricter half of the rules, as the coil’s make is not stated',
  face_area: 'a usual face area',
  deep_minutes: 'usual minutes',
  core: 'a core as this soil usually leaves it',
}
const typing = ref<Record<string, string>>({})
function setAside(code: string) {
  const why = (typing.value[code] ?? '').trim()
  if (why) aside.value = { ...aside.value, [code]: why }
}
function takeBack(code: string) {
  aside.value = Object.fromEntries(Object.entries(aside.value).filter(([k]) => k !== code))
}
</script>

<template>
  <p v-if="advice.leave" class="notice">
    This coil needs nothing: it is below the limit. Look again at the next visit.
  </p>
  <p v-if="advice.assumed.length" class="soft">
    Assumed: {{ advice.assumed.map((a) => assumedWords[a] ?? a).join('; ') }}.
  </p>
  <p v-if="!advice.options.length" class="notice danger">
    No method is allowed here; see what is ruled out and why.
  </p>
  <ol class="options">
    <li v-for="(o, i) in shown" :key="o.method + o.cleaner" :class="{ on: isChosen(o), poor: !o.enough }">
      <div class="top">
        <strong>{{ o.method_name }}{{ o.cleaner_name ? `, ${o.cleaner_name.toLowerCase()}` : '' }}</strong>
        <span v-if="i === 0 && o.enough" class="best">first choice</span>
        <span v-if="!o.enough" class="soft">leaves more than your limit</span>
      </div>
      <div class="facts">
        <span>leaves <SiltGrade :grade="o.left_grade" /> {{ gradeNames[o.left_grade] }}</span>
        <span>{{ Math.round(o.minutes) }} min</span>
        <span>{{ o.cost.toFixed(2) }} {{ session?.currency }}</span>
        <span>{{ directionWords[o.direction] }}</span>
      </div>
      <p v-if="o.cleaner && o.mix_l > 0" class="mix">
        <template v-if="o.water_parts !== undefined && o.water_parts > 0"
          ><strong>{{ ratio(o.water_parts) }}</strong> water to cleaner:
          {{ figure('L', o.cleaner_l) }} cleaner + {{ figure('L', o.mix_l - o.cleaner_l) }} water =
          {{ figure('L', o.mix_l) }} mix</template
        ><template v-else>{{ figure('L', o.cleaner_l) }} undiluted</template
        ><template v-if="o.dwell_max_s"
          >; dwell {{ minutes(o.dwell_min_s ?? 0) }} to {{ minutes(o.dwell_max_s) }} min</template
        ><template v-if="o.rinse_l > 0">; rinse about {{ figure('L', o.rinse_l, 2) }}</template
        ><template v-if="o.buckets">, {{ o.buckets }} buckets of 10 L</template>
      </p>
      <p v-if="o.protection.length" class="soft">Wear: {{ o.protection.join(', ') }}.</p>
      <details>
        <summary>Kit, containment, disposal, reasons</summary>
        <p>Kit: {{ o.kit.join(', ') || 'nothing special' }}.</p>
        <p v-if="o.contain">{{ o.contain }}</p>
        <p v-if="o.dispose">{{ o.dispose }}</p>
        <p v-for="n in o.notes" :key="n">{{ n }}</p>
        <p v-if="o.overridden?.length" class="over">Rules overridden: {{ o.overridden.join(', ') }}.</p>
      </details>
      <button
        v-if="chosen"
        type="button"
        class="plain-button"
        :aria-pressed="isChosen(o)"
        @click="emit('choose', o)"
      >
        {{ isChosen(o) ? 'Chosen' : 'Choose' }}
      </button>
    </li>
  </ol>
  <button v-if="advice.options.length > few" type="button" class="link more" @click="all = !all">
    {{ all ? 'Show the first ones only' : `Show all ${advice.options.length}` }}
  </button>
  <details class="out">
    <summary>Ruled out, and by which rule ({{ groups.length }} rules)</summary>
    <ul>
      <li v-for="g in groups" :key="g.ban.code">
        <strong>{{ g.ban.text }}</strong>
        <span class="soft">{{ g.ban.hard ? ' Always.' : ' House rule.' }}</span>
        <div v-if="g.names.length" class="soft">{{ g.names.join('; ') }}</div>
        <div v-if="!g.ban.hard && chosen" class="aside">
          <template v-if="aside[g.ban.code]"
            >Override: {{ aside[g.ban.code] }}
            <button type="button" class="link" @click="takeBack(g.ban.code)">undo</button></template
          >
          <template v-else>
            <input
              v-model="typing[g.ban.code]"
              class="plain-input"
              maxlength="500"
              :aria-label="`Why the rule is overridden: ${g.ban.text}`"
              placeholder="why it is overridden here"
            />
            <button type="button" class="plain-button" @click="setAside(g.ban.code)">Override</button>
          </template>
        </div>
      </li>
    </ul>
    <p v-for="(why, code) in aside" :key="code" class="soft">
      Override: {{ code }}, {{ why }}
      <button type="button" class="link" @click="takeBack(String(code))">undo</button>
    </p>
  </details>
</template>

<style scoped>
.options {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
.options li {
  border-top: 1px solid var(--hairline);
  padding: 9px 0 9px 10px;
  border-left: 4px solid transparent;
}
.options li.on {
  border-left-color: var(--petrol);
  background: var(--petrol-tint);
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
}
.best {
  color: var(--petrol);
  font-weight: 600;
  font-size: 13.5px;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin: 3px 0;
  align-items: center;
}
.mix {
  margin: 2px 0;
}
summary {
  cursor: pointer;
  min-height: 44px;
  display: flex;
  align-items: center;
  color: var(--petrol);
}
.plain-button[aria-pressed='true'] {
  background: var(--petrol);
  color: var(--paper);
}
.more,
.link {
  min-height: 44px;
}
.out ul {
  padding-left: 18px;
  margin: 4px 0;
}
.out li {
  margin-bottom: 8px;
}
.aside {
  display: flex;
  gap: 8px;
  margin-top: 4px;
  align-items: center;
  flex-wrap: wrap;
}
.aside .plain-input {
  flex: 1;
  min-width: 180px;
}
</style>
