<script setup lang="ts">
import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import { figure } from '../../units'
import { endPointWords, roleWords, upperFirst } from '../../words'
import type { Work } from './ledVisit'

/** Rinsing to an end-point. */
const props = defineProps<{ pack: Schemas['VisitPack']; ticks: Schemas['EndPoint'][] }>()
const work = defineModel<Work>({ required: true })
const name = (coil: string) => upperFirst(roleWords[props.pack.unit.coils.find((u) => u.id === coil)!.role])
/** The end-points that the rules ask for and nobody has ticked yet. */
const missing = (have: Schemas['EndPoint'][]) =>
  props.ticks.filter((t) => !have.includes(t)).map((t) => endPointWords[t].toLowerCase())
function tick(i: number, e: Schemas['EndPoint']) {
  const c = work.value.coils[i]!
  c.end_points = c.end_points.includes(e) ? c.end_points.filter((x) => x !== e) : [...c.end_points, e]
}
</script>

<template>
  <template v-for="(c, i) in work.coils" :key="c.coil_id">
    <section v-if="c.on && c.method">
      <h4 v-if="work.coils.length > 1">{{ name(c.coil_id) }}</h4>
      <div class="ticks">
        <label v-for="(word, e) in endPointWords" :key="e" :class="{ on: c.end_points.includes(e) }">
          <input
            type="checkbox"
            class="visually-hidden"
            :checked="c.end_points.includes(e)"
            @change="tick(i, e)"
          />
          <span aria-hidden="true">{{ c.end_points.includes(e) ? '✓' : '' }}</span>{{ word }}
        </label>
      </div>
      <p v-if="missing(c.end_points).length" class="soft">
        By your house rules the rinse is done when these are ticked: {{ missing(c.end_points).join(', ') }}.
      </p>
      <div class="fields">
        <FigureField
          v-model="work.coils[i]!.rinse_l"
          label="Rinse water"
          :at="c.name"
          :from="0"
          :to="5000"
          quantity="L"
          :hint="c.planned_rinse_l ? `planned ${figure('L', c.planned_rinse_l)}` : ''"
        />
        <label class="field"
          ><span class="label">Pressure and tip</span
          ><input
            v-model="work.coils[i]!.tip"
            class="plain-input"
            maxlength="120"
            placeholder="low pressure, 15° tip"
        /></label>
      </div>
    </section>
  </template>
</template>

<style scoped>
.ticks label {
  position: relative;
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 46px;
  border-bottom: 1px solid var(--hairline);
  cursor: pointer;
}
.ticks span {
  width: 26px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  display: flex;
  align-items: center;
  justify-content: center;
  background: var(--sheet);
}
.ticks label.on span {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--paper);
}
.ticks label:focus-within {
  outline: 2px solid var(--petrol);
}
h4 {
  margin: 4px 0;
}
.fields {
  margin-top: 10px;
}
</style>
