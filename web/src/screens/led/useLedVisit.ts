import { computed, nextTick, ref, watch } from 'vue'

import type { Schemas } from '../../api/client'
import { refusal } from '../../offline/device'
import { flush, putInOutbox, readOutbox } from '../../offline/outbox'
import { type Pack, packFor } from '../../offline/packs'
import { shelf } from '../../offline/shelf'
import { useLoad } from '../../parts/useLoad'
import { unread } from '../../parts/unread'
import { session } from '../../session'
import { runs } from './clock'
import { handOverTo } from './handOver'
import { recordOf } from './record'
import { keepClocks } from './running'
import { type Ask, judge, type Judged } from './judged'
import { coilName, sideNames } from './names'
import { begin, drop, jobsOf, keep, kept, phases, type Step, toVisit, type Work } from './ledVisit'

/** The day at the site; without network the phone's own, unless the clock stands still as in a demonstration. */
const dayOf = (got: Pack) =>
  got.fresh || session.value?.clock_pinned ? got.pack.today : new Date().toLocaleDateString('sv-SE')

/** The crew whose kit is on the van: the one that the person is in, as its day was last kept. */
async function kitOf(pack: Schemas['VisitPack']): Promise<string> {
  const crew = (await (await shelf()).get('days', ''))?.day.crew?.name ?? ''
  return pack.kits.some((k) => k.crew === crew) ? crew : ''
}

/** A visit led step by step: its draft, kept at every change, the steps that apply, and sending it. */
export function useLedVisit(unit: string, token: string, jobs: Schemas['VisitJob'][] = []) {
  const work = ref<Work | null>(null)
  let untouched = ''
  // What was typed elsewhere and is no number is no matter of this visit.
  unread.clear()
  /** Whether the rules could not be run on this phone; then the server alone judges. */
  const unjudged = ref(false)
  const resumed = ref(false)
  const steps = ref<Step[]>([])
  const open = ref('')
  /** What went wrong on this phone; it is said at once. */
  const broken = ref('')

  const load = useLoad(async () => {
    const got = await packFor(unit, token)
    const before = kept(got.pack.unit.id)
    // The steps shown are those of the pack: an older draft goes on with them.
    if (before) before.version = got.pack.procedure.version
    resumed.value = before !== null
    const me = token ? (got.pack.catalogue.people[0]?.id ?? '') : (session.value?.person_id ?? '')
    const fresh = begin(got.pack, dayOf(got), me, jobs.length ? jobs : ['deep'])
    // A draft of an older version of the program lacks what came since.
    if (!before && !token) fresh.crew = await kitOf(got.pack)
    untouched = JSON.stringify(fresh)
    work.value = before ? { ...fresh, ...before } : fresh
    // The steps known beforehand show at once; of a visit that goes on, those that what was found has led to.
    steps.value = jobsOf(work.value).includes('deep') ? got.pack.steps : []
    if (before)
      steps.value = await judge(got.pack, work.value, '', new Date().toISOString()).then(
        (said) => said.steps,
        () => steps.value,
      )
    open.value = steps.value.find((x) => !work.value?.steps[x.code])?.code ?? ''
    broken.value = got.unkept
    keepClocks(work.value)
    void readOutbox()
    return got
  })
  const pack = computed(() => load.data.value?.pack ?? null)

  // A visit is begun by the first thing recorded, not by being opened.
  watch(
    work,
    (w) => {
      if (w && (resumed.value || JSON.stringify(w) !== untouched)) broken.value = keep(w)
    },
    { deep: true },
  )
  const next = computed(() => steps.value.find((s) => !work.value?.steps[s.code]))
  const groups = computed(() =>
    phases
      .map((phase) => ({ phase, steps: steps.value.filter((s) => s.phase === phase) }))
      .filter((g) => g.steps.length),
  )
  const doneCount = computed(() => steps.value.filter((s) => work.value?.steps[s.code]).length)
  const running = computed(() => work.value?.coils.filter((c) => runs(c.timer)) ?? [])
  const sides = computed(() => (pack.value ? sideNames(pack.value) : []))
  const nameOf = (coil: string) => coilName(pack.value, coil)

  /** What the server would say of the visit as it stands, by its own rules. */
  const judged = ref<(Judged & { of: string }) | null>(null)
  let asked = 0
  watch(
    () => (pack.value && work.value ? [JSON.stringify(work.value), open.value] : null),
    async (now) => {
      if (!now || !pack.value || !work.value) return
      const mine = ++asked
      try {
        const of = open.value
        const said = await judge(pack.value, work.value, of, new Date().toISOString())
        if (mine === asked) judged.value = { ...said, of }
        unjudged.value = false
      } catch (e) {
        unjudged.value = true
        broken.value = e instanceof Error ? e.message : String(e)
      }
    },
    { immediate: true },
  )
  /** The step before, left open after its record ticked it: more can still be said there. */
  const lingering = ref('')
  // Where a tap completes the record of a step, that tap ticks it; while somebody types, it waits for Done.
  const ticksItself = new Set(['isolation', 'opened_up', 'advice', 'as_left', 'rinse'])
  const typing = () =>
    document.activeElement?.matches('input:not([type=radio]):not([type=checkbox]), textarea') ?? false
  /** What a step's record was when the step was opened. */
  let before = { code: '', record: '' }
  watch([open, () => steps.value.length > 0], () => {
    const s = steps.value.find((x) => x.code === open.value)
    if (s && work.value && before.code !== s.code) before = { code: s.code, record: recordOf(s, work.value) }
  })
  // The steps follow from what was found and chosen.
  watch(judged, (said) => {
    if (!said || JSON.stringify(said.steps) === JSON.stringify(steps.value)) return
    const atNext = open.value === (next.value?.code ?? '')
    steps.value = said.steps
    if (atNext) open.value = next.value?.code ?? ''
  })
  watch(judged, (said) => {
    const s = steps.value.find((x) => x.code === said?.of)
    const w = work.value
    if (!s || !w || !said) return
    const record = recordOf(s, w)
    const changed = before.code === s.code && before.record !== record
    if (!changed || !ticksItself.has(s.form ?? '') || w.steps[s.code] || undone.has(s.code)) return
    if (typing() || shut(s) || said.here.length || waits(s).length) return
    w.steps[s.code] = { state: 'done', reason: '', at: new Date().toISOString() }
    if (s.code === 'isolate') w.isolation.at = w.steps[s.code]!.at
    lingering.value = s.code
    open.value = next.value?.code ?? ''
  })
  /** Steps that somebody took back are ticked by hand. */
  const undone = new Set<string>()
  const unsure = (a: Ask) => work.value?.sure[a.key] !== true
  const asksAt = (s: Step) => judged.value?.asks.filter((a) => a.step === s.code) ?? []
  const refusals = computed(() => [
    ...(judged.value || unjudged.value
      ? []
      : [{ field: '', step: '', reason: 'the rules are being loaded' }]),
    ...[...unread].map(([place, raw]) => ({
      field: place,
      step: '',
      reason: `${place}: “${raw}” is not a number; put it right where it stands`,
    })),
    ...(judged.value?.refusals ?? []),
    ...(judged.value?.asks.filter(unsure).map((a) => ({ field: a.key, step: a.step, reason: a.text })) ?? []),
  ])

  /** A gate in front that is still shut keeps what comes after it shut. */
  const shut = (s: Step) =>
    steps.value
      .slice(0, steps.value.indexOf(s))
      .find((x) => x.gate && x.phase === 'safe' && !work.value?.steps[x.code]) ?? null
  /** What a step waits for before it can be ticked: its own record, as the server would have it. */
  const waits = (s: Step): string[] => {
    if (judged.value?.of !== s.code) return []
    if (s.form === 'dwell' && running.value.length) return ['A clock is running: rinsing has to begin first.']
    const out = judged.value.here.map((r) => r.reason)
    if (asksAt(s).some(unsure)) out.push('Answer the question first.')
    return [...new Set(out)]
  }
  /** Opens a step and goes there. */
  function show(step: string) {
    open.value = step
    lingering.value = ''
    void nextTick(() =>
      document.getElementById(`step-${step}`)?.scrollIntoView({ block: 'start', behavior: 'instant' }),
    )
  }

  async function mark(s: Step, state: 'done' | 'skipped', reason = '') {
    const w = work.value
    if (!w || !pack.value) return
    const at = new Date().toISOString()
    if (state === 'done') {
      // What was tapped last may not have been judged yet.
      try {
        judged.value = { ...(await judge(pack.value, w, s.code, at)), of: s.code }
      } catch (e) {
        broken.value = e instanceof Error ? e.message : String(e)
        if (s.gate) return
      }
      if (waits(s).length) return
    }
    w.steps[s.code] = { state, reason, at }
    if (s.code === 'isolate' && state === 'done') w.isolation.at = w.steps[s.code]!.at
    show(next.value?.code ?? '')
  }
  /** Ticks a step and those that follow, as long as they ask for nothing. */
  const asks = (s: Step) =>
    s.gate ||
    s.photo ||
    (s.form && s.form !== 'between' && !(s.form === 'told' && !pack.value?.symptoms.length))
  const plain = (s: Step) => !asks(s) && !work.value?.steps[s.code]
  const run = (s: Step): Step[] => {
    const from = steps.value.indexOf(s)
    const end = steps.value.findIndex((x, i) => i >= from && !plain(x))
    return plain(s) ? steps.value.slice(from, end < 0 ? undefined : end) : []
  }
  async function markRun(s: Step) {
    for (const x of run(s)) await mark(x, 'done')
  }
  function undo(s: Step) {
    undone.add(s.code)
    if (work.value)
      work.value.steps = Object.fromEntries(Object.entries(work.value.steps).filter(([k]) => k !== s.code))
    open.value = s.code
  }
  function startAgain() {
    if (!pack.value) return
    drop(pack.value.unit.id)
    unread.clear()
    const me = session.value?.person_id ?? work.value?.people[0]?.person_id ?? ''
    work.value = begin(pack.value, work.value?.day ?? pack.value.today, me, work.value?.jobs)
    resumed.value = false
    open.value = steps.value[0]?.code ?? ''
  }

  /** Hands the visit over to somebody who signs in on this phone: it is theirs from then on. */
  async function handOver(to: string): Promise<boolean> {
    const w = work.value
    if (!w || !pack.value || !to) return false
    try {
      await handOverTo(to, { ...w, handed_by: session.value?.person ?? '' }, pack.value)
    } catch (e) {
      broken.value = refusal(e)
      return false
    }
    drop(w.unit_id)
    work.value = null
    return true
  }

  /** Puts the visit into the outbox; true when it is kept there. */
  async function send(): Promise<boolean> {
    const w = work.value
    if (!w || !pack.value || refusals.value.length) return false
    // Once its times are mended, the end is told by the same clock as the start.
    const visit = toVisit(pack.value, w, new Date(Date.now() - (w.mended_ms ?? 0)).toISOString())
    const consents = w.coils
      .filter((c) => c.consent.trim())
      .map((c) => `${nameOf(c.coil_id)}, slabs: ${c.consent.trim()}`)
    if (consents.length) visit.note = [visit.note, ...consents].filter(Boolean).join('\n')
    try {
      await putInOutbox({
        key: w.key,
        tag: pack.value.unit.tag,
        visit,
        photos: w.photos.map((p) => p.id),
        work: JSON.stringify(w),
        token,
      })
    } catch (e) {
      broken.value = refusal(e)
      return false
    }
    drop(w.unit_id)
    work.value = null
    void flush()
    return true
  }

  return {
    ...load,
    pack,
    work,
    resumed,
    steps,
    open,
    broken,
    groups,
    doneCount,
    running,
    sides,
    nameOf,
    refusals,
    asksAt,
    show,
    lingering,
    run,
    markRun,
    shut,
    waits,
    mark,
    undo,
    startAgain,
    handOver,
    send,
  }
}
