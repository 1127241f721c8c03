import type { Component } from 'vue'

import type { Schemas } from '../../api/client'
import type { stepFormCodes } from '../../api/facts.gen'
import AccessPart from './AccessPart.vue'
import AdvicePart from './AdvicePart.vue'
import BetweenPart from './BetweenPart.vue'
import DwellPart from './DwellPart.vue'
import IsolationPart from './IsolationPart.vue'
import type { Step } from './ledVisit'
import ListParts from './ListParts.vue'
import LooksPart from './LooksPart.vue'
import ReadingsPart from './ReadingsPart.vue'
import RinsePart from './RinsePart.vue'
import SurfacesPart from './SurfacesPart.vue'
import WatchPart from './WatchPart.vue'

/** What a form of a step is given, beside the visit's work as its model. */
export interface Given {
  step: Step
  pack: Schemas['VisitPack']
  guest: boolean
}

export interface StepForm {
  part: Component
  props: (g: Given) => Record<string, unknown>
}

const withPack = (part: Component, more: Record<string, unknown> = {}): StepForm => ({
  part,
  props: (g) => ({ pack: g.pack, ...more }),
})
const readings = (phase: 'before' | 'after'): StepForm => ({
  part: ReadingsPart,
  props: (g) => ({ pack: g.pack, phase, guest: g.guest, step: g.step.code }),
})
const list = (form: 'parts' | 'count' | 'told'): StepForm => ({
  part: ListParts,
  props: (g) => ({ pack: g.pack, form, back: g.step.code === 'count_back' }),
})

/** The part of the screen for each form that a step may carry; one that is missing does not compile. */
export const stepForms: Record<(typeof stepFormCodes)[number], StepForm> = {
  access: withPack(AccessPart),
  watch: withPack(WatchPart),
  readings_before: readings('before'),
  readings_after: readings('after'),
  isolation: {
    part: IsolationPart,
    props: (g) => ({ step: g.step.code, proof: g.step.proof ?? 'meter' }),
  },
  first_look: withPack(LooksPart, { phase: 'first' }),
  opened_up: withPack(LooksPart, { phase: 'found' }),
  as_left: withPack(LooksPart, { phase: 'left' }),
  advice: withPack(AdvicePart),
  dwell: withPack(DwellPart),
  rinse: { part: RinsePart, props: (g) => ({ pack: g.pack, ticks: g.step.ticks ?? [] }) },
  parts: list('parts'),
  count: list('count'),
  told: list('told'),
  between: { part: BetweenPart, props: (g) => ({ pack: g.pack, step: g.step.code }) },
  surfaces: { part: SurfacesPart, props: (g) => ({ step: g.step.code, known: g.pack.unit.surfaces ?? [] }) },
}

/** The form of a step, if it carries one. */
export const formOf = (s: Step): StepForm | undefined =>
  s.form ? (stepForms as Record<string, StepForm>)[s.form] : undefined
