<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'

import type { Schemas } from '../../api/client'
import FaceMap from '../../parts/FaceMap.vue'
import TapChoice from '../../parts/TapChoice.vue'
import { roleWords, seenWords, upperFirst } from '../../words'
import type { Cell, CoilWork, SideWork, Work } from './ledVisit'

/** The sides of every coil, mapped: at first look, once opened up, or as left. */
const props = defineProps<{ pack: Schemas['VisitPack']; phase: 'first' | 'found' | 'left' }>()
const work = defineModel<Work>({ required: true })

const coils = computed(() =>
  props.pack.coils.map((c, i) => ({
    state: work.value.coils[i]!,
    unit: props.pack.unit.coils.find((u) => u.id === c.coil_id)!,
    facts: c.sides,
  })),
)
const heads = { first: 'First look', found: 'Found, opened up', left: 'As left' }
const name = (coil: { unit: Schemas['Coil'] }, surface: string) =>
  coil.unit.sides.find((s) => s.id === surface)?.name ?? ''
const note = (coil: { unit: Schemas['Coil'] }, surface: string) =>
  coil.unit.sides.find((s) => s.id === surface)?.access_note ?? ''
const reached = [
  { value: true, label: 'Reached' },
  { value: false, label: 'Not reached' },
]
const seen = Object.entries(seenWords).map(([value, label]) => ({ value: value as 'face_look', label }))
/** What is graded was reached. */
function painted(side: SideWork, cells: Cell[]) {
  side[props.phase] = cells
  if (cells.some((c) => c.grade !== undefined)) side.reached = true
}
const how = (s: SideWork) => (props.phase === 'left' ? s.left_seen : s.seen)
/** The other sides that nothing is said of yet, where this one is the same all over. */
function alike(sides: SideWork[], at: number): number[] {
  const s = sides[at]!
  const one =
    s[props.phase].length > 0 &&
    s[props.phase].every((c) => c.grade === s[props.phase][0]!.grade && c.grade !== undefined)
  if (!one || (props.phase !== 'first' && !how(s))) return []
  return sides.flatMap((o, i) =>
    i !== at && !o[props.phase].length && (props.phase === 'left' ? o.reached === true : o.reached !== false)
      ? [i]
      : [],
  )
}
function copy(sides: SideWork[], at: number) {
  const s = sides[at]!
  const facts = coils.value.find((c) => c.state.sides.some((x) => x.surface_id === s.surface_id))!.facts
  for (const i of alike(sides, at)) {
    const o = sides[i]!
    const { rows, columns } = facts[i]!
    o[props.phase] = Array.from({ length: rows * columns }, (_, k) => ({
      row: Math.floor(k / columns),
      column: k % columns,
      grade: s[props.phase][0]!.grade!,
    }))
    o.reached = true
    if (props.phase === 'found') {
      o.seen = s.seen
      o.soils = [...s.soils]
    }
    if (props.phase === 'left') o.left_seen = s.left_seen
  }
}
/** Sides found alike are most often left alike: then they are graded as one, until somebody wants them apart. */
const apart = ref(false)
const uniform = (cells: Cell[]) =>
  cells.length && cells.every((c) => c.grade !== undefined && c.grade === cells[0]!.grade)
    ? cells[0]!.grade!
    : null
function together(c: CoilWork): number {
  const sides = c.sides.filter((s) => s.reached)
  if (props.phase !== 'left' || apart.value || sides.length < 2) return 0
  const found = uniform(sides[0]!.found)
  const left = sides.map((s) => JSON.stringify([s.left.length, uniform(s.left), s.left_seen]))
  const alike =
    sides.every((s) => uniform(s.found) === found && s.seen === sides[0]!.seen) &&
    new Set(left.map((l) => l.replace(/^\[\d+/, ''))).size === 1
  return found !== null && alike ? sides.length : 0
}
const allLeft = (c: CoilWork): Cell[] => {
  const g = uniform(c.sides.find((s) => s.reached)!.left)
  return g === null ? [] : [{ row: 0, column: 0, grade: g }]
}
const allLeftSeen = (c: CoilWork) => c.sides.find((s) => s.reached)!.left_seen
function leaveAll(c: CoilWork, facts: Schemas['SideFacts'][], cells: Cell[]) {
  const g = cells[0]?.grade
  c.sides.forEach((s, i) => {
    if (!s.reached) return
    const { rows, columns } = facts[i]!
    s.left =
      g === undefined
        ? []
        : Array.from({ length: rows * columns }, (_, k) => ({
            row: Math.floor(k / columns),
            column: k % columns,
            grade: g,
          }))
  })
}
function seeAll(c: CoilWork, how: Schemas['Seen'] | '' | null) {
  for (const s of c.sides) if (s.reached) s.left_seen = how ?? ''
}
/** A face that is the same all over is mapped with one tap; so the look before is taken as a start. */
function start(side: SideWork) {
  if (props.phase === 'left') side.left = side.found.filter((c) => c.why_not).map((c) => ({ ...c }))
}
</script>

<template>
  <template v-for="(coil, ci) in coils" :key="coil.unit.id">
    <div v-if="coils.length > 1" class="coil">
      <h4>{{ upperFirst(roleWords[coil.unit.role]) }}</h4>
      <TapChoice
        v-if="phase !== 'left'"
        v-model="work.coils[ci]!.on"
        hide-label
        :label="`${roleWords[coil.unit.role]}: part of this visit`"
        :options="[
          { value: true, label: 'In this visit' },
          { value: false, label: 'Not this time' },
        ]"
      />
    </div>
    <template v-if="coil.state.on">
      <section v-if="together(coil.state)" class="side">
        <h5>The {{ together(coil.state) }} sides that were reached were found alike</h5>
        <FaceMap
          :model-value="allLeft(coil.state)"
          :label="heads.left"
          :rows="1"
          :columns="1"
          @update:model-value="leaveAll(work.coils[ci]!, coil.facts, $event)"
        />
        <TapChoice
          :model-value="allLeftSeen(coil.state)"
          label="Seen by"
          :options="seen"
          @update:model-value="seeAll(work.coils[ci]!, $event)"
        />
        <button type="button" class="link" @click="apart = true">Grade each side apart</button>
      </section>
      <section
        v-for="(side, si) in together(coil.state) ? [] : coil.state.sides"
        :key="side.surface_id"
        class="side"
      >
        <h5>{{ upperFirst(name(coil, side.surface_id)) }}</h5>
        <p v-if="note(coil, side.surface_id)" class="soft">{{ note(coil, side.surface_id) }}</p>
        <template v-if="phase !== 'left'">
          <TapChoice
            v-model="work.coils[ci]!.sides[si]!.reached"
            hide-label
            :label="`${name(coil, side.surface_id)}: reached`"
            :options="reached"
          />
          <label v-if="side.reached === false" class="field"
            ><span class="label">Why not</span
            ><input
              v-model="work.coils[ci]!.sides[si]!.why_not"
              class="plain-input"
              maxlength="300"
              placeholder="for example: behind the cable tray"
          /></label>
        </template>
        <template v-if="phase === 'left' ? side.reached : side.reached !== false">
          <button
            v-if="phase === 'left' && !side.left.length && side.found.some((c) => c.why_not)"
            type="button"
            class="link"
            @click="start(work.coils[ci]!.sides[si]!)"
          >
            Take over what was not reached
          </button>
          <FaceMap
            :model-value="side[phase]"
            :label="heads[phase]"
            :rows="coil.facts[si]!.rows"
            :columns="coil.facts[si]!.columns"
            :before="phase === 'left' ? side.found : []"
            @update:model-value="painted(work.coils[ci]!.sides[si]!, $event)"
          />
          <div v-if="phase !== 'first'" class="fields">
            <label v-if="phase === 'found'" class="field"
              ><span class="label">Soil</span>
              <ElSelect
                v-model="work.coils[ci]!.sides[si]!.soils"
                multiple
                size="large"
                placeholder="what it is"
                :aria-label="`${name(coil, side.surface_id)}: soil`"
              >
                <ElOption v-for="s in pack.catalogue.soils" :key="s.id" :value="s.id" :label="s.name" />
              </ElSelect>
            </label>
            <TapChoice
              v-model="work.coils[ci]!.sides[si]![phase === 'found' ? 'seen' : 'left_seen']"
              label="Seen by"
              :options="seen"
            />
          </div>
          <button
            v-if="alike(coil.state.sides, si).length"
            type="button"
            class="link"
            @click="copy(work.coils[ci]!.sides, si)"
          >
            The same on the other {{ alike(coil.state.sides, si).length }}
          </button>
        </template>
      </section>
    </template>
  </template>
</template>

<style scoped>
.side {
  border-top: 1px solid var(--hairline);
  padding: 8px 0 2px;
}
h4 {
  margin: 8px 0 4px;
  font-size: 16px;
}
h5 {
  margin: 0 0 6px;
  font-size: 15px;
}
.link {
  min-height: 44px;
}
</style>
