<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue'

import { type Cell, mapShare } from '../screens/led/ledVisit'
import { gradeNames, gradeOf } from '../words'
import SureButton from './SureButton.vue'

/** The face of a coil side as cells: choose a grade, tap the cells that have it. Blocked share and grade follow. */
const props = defineProps<{
  label: string
  rows: number
  columns: number
  /** The same face before, shown beside. */
  before?: Cell[]
}>()
const cells = defineModel<Cell[]>({ required: true })

const missed = 6
/** Nothing is chosen before somebody taps. */
const brush = ref<number | null>(null)
const why = ref('')
const id = useId()
const grid = computed(() =>
  Array.from({ length: props.rows * props.columns }, (_, i) => {
    const row = Math.floor(i / props.columns)
    const column = i % props.columns
    return cells.value.find((c) => c.row === row && c.column === column) ?? { row, column }
  }),
)
const share = computed(() => mapShare(cells.value))
const open = computed(() => grid.value.filter((c) => !done(c)).length)
const away = computed(() => cells.value.filter((c) => c.grade === undefined && c.why_not).length)

const done = (c: Cell) => c.grade !== undefined || !!c.why_not
const painted = (row: number, column: number): Cell =>
  brush.value === missed ? { row, column, why_not: why.value.trim() } : { row, column, grade: brush.value! }
/** Whether the grade was walked to with the keys, and whether the face is still as one choice filled it. */
const walked = ref(false)
let filled = false
watch(brush, (b) => {
  if (b === null || b === missed) return
  if (!cells.value.length || (walked.value && filled)) {
    cells.value = grid.value.map((c) => ({ row: c.row, column: c.column, grade: b }))
    filled = true
  }
})

function paint(c: Cell) {
  if (brush.value === null || (brush.value === missed && !why.value.trim())) return
  filled = false
  const rest = cells.value.filter((x) => x.row !== c.row || x.column !== c.column)
  cells.value = [...rest, painted(c.row, c.column)]
}
function fill() {
  if (brush.value === null || (brush.value === missed && !why.value.trim())) return
  cells.value = grid.value.map((c) => (done(c) ? c : painted(c.row, c.column)))
}
function clear() {
  cells.value = []
  brush.value = null
}
const says = (c: Cell) =>
  c.grade !== undefined
    ? `${c.grade}, ${gradeNames[c.grade]}`
    : c.why_not
      ? `not reached, ${c.why_not}`
      : 'open'
const shown = (list: Cell[], row: number, column: number) =>
  list.find((c) => c.row === row && c.column === column)
</script>

<template>
  <fieldset class="map">
    <legend class="label">{{ label }}</legend>
    <div
      class="brushes"
      role="radiogroup"
      :aria-label="`${label}: what to tap in`"
      @keydown="walked = true"
      @pointerdown="walked = false"
    >
      <label v-for="(word, g) in gradeNames" :key="g" :class="[`g${g}`, { on: brush === g }]" :title="word">
        <input v-model="brush" type="radio" class="visually-hidden" :name="id" :value="g" /><span>{{
          g
        }}</span
        ><span class="w">{{ word }}</span>
      </label>
      <label :class="['miss', { on: brush === missed }]">
        <input v-model="brush" type="radio" class="visually-hidden" :name="id" :value="missed" />not reached
      </label>
    </div>
    <label v-if="brush === missed" class="field"
      ><span class="label">Why not reached</span
      ><input v-model="why" class="plain-input" maxlength="300" placeholder="for example: behind the bracket"
    /></label>
    <div class="faces">
      <div v-if="before?.length" class="before">
        <span class="soft">found</span>
        <div
          class="grid small"
          :style="{ gridTemplateColumns: `repeat(${columns}, 1fr)` }"
          aria-hidden="true"
        >
          <span
            v-for="c in grid"
            :key="`${c.row} ${c.column}`"
            :class="
              shown(before, c.row, c.column)?.grade !== undefined
                ? `g${shown(before, c.row, c.column)!.grade}`
                : 'none'
            "
            >{{ shown(before, c.row, c.column)?.grade }}</span
          >
        </div>
      </div>
      <div class="now">
        <span v-if="before?.length" class="soft">as left</span>
        <div class="grid" :style="{ gridTemplateColumns: `repeat(${columns}, minmax(44px, 1fr))` }">
          <button
            v-for="c in grid"
            :key="`${c.row} ${c.column}`"
            type="button"
            :class="c.grade !== undefined ? `g${c.grade}` : c.why_not ? 'miss' : 'none'"
            :aria-label="`row ${c.row + 1}, column ${c.column + 1}: ${says(c)}`"
            @click="paint(c)"
          >
            {{ c.grade ?? (c.why_not ? '×' : '') }}
          </button>
        </div>
      </div>
    </div>
    <div v-if="cells.length" class="sum">
      <button v-if="open" type="button" class="plain-button" @click="fill">Fill the {{ open }} open</button>
      <SureButton look="plain-button" label="Clear" ask="Erase this map?" @sure="clear" />
      <span v-if="share !== null"
        ><strong>{{ Math.round(share * 100) }} % blocked</strong>, grade {{ gradeOf(share) }}
        {{ gradeNames[gradeOf(share)]
        }}<template v-if="away">; {{ away }} of {{ rows * columns }} not reached</template></span
      >
    </div>
  </fieldset>
</template>

<style scoped>
.map {
  border: 0;
  padding: 0;
  margin: 0 0 14px;
  min-width: 0;
}
.brushes {
  display: flex;
  gap: 3px;
  margin-bottom: 8px;
}
.brushes label {
  position: relative;
  flex: 1;
  min-height: 46px;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  font-weight: 700;
  cursor: pointer;
  border: 3px solid transparent;
  line-height: 1.05;
}
.brushes .w {
  font-weight: 400;
  font-size: 11px;
}
.brushes label.miss {
  flex: 1.4;
  font-size: 13px;
  font-weight: 500;
  text-align: center;
  border: 1px dashed var(--edge);
}
.brushes label.on {
  border: 3px solid var(--petrol);
  box-shadow: inset 0 0 0 2px var(--sheet);
}
.brushes label:focus-within {
  outline: 2px solid var(--petrol);
  outline-offset: 2px;
}
.faces {
  display: flex;
  gap: 10px;
  align-items: end;
}
.now {
  flex: 1;
  overflow-x: auto;
  padding: 3px;
}
.grid {
  display: grid;
  gap: 2px;
  max-width: 560px;
}
.grid button {
  min-height: 46px;
  border: 1px solid var(--edge);
  border-radius: 0;
  font: inherit;
  font-weight: 700;
  cursor: pointer;
}
.grid.small {
  width: 92px;
}
.grid.small span {
  height: 22px;
  font-size: 12px;
  display: flex;
  align-items: center;
  justify-content: center;
}
.none {
  background: var(--sheet);
  color: var(--ink);
}
.grid .miss {
  background: repeating-linear-gradient(45deg, var(--shade) 0 4px, var(--sheet) 4px 8px);
  color: var(--ink);
}
.sum {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin-top: 6px;
}
</style>
