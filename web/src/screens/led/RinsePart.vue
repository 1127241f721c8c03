<script setup lang="ts">
import type { Schemas } from '../../api/client'
import FigureField from '../../parts/FigureField.vue'
import TickLine from '../../parts/TickLine.vue'
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
      <TickLine
        v-for="(word, e) in endPointWords"
        :key="e"
        :text="word"
        :on="c.end_points.includes(e)"
        @tick="tick(i, e)"
      />
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
h4 {
  margin: 4px 0;
}
.fields {
  margin-top: 10px;
}
</style>
