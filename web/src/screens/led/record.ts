import type { Step, Work } from './ledVisit'

/** What is recorded at a step so far, to tell whether a tap added to it; empty where a step keeps no record of its own. */
export function recordOf(s: Step, w: Work): string {
  const sides = w.coils.filter((c) => c.on).flatMap((c) => c.sides)
  switch (s.form) {
    case 'isolation':
      return JSON.stringify(w.isolation)
    case 'opened_up':
      return JSON.stringify(sides.map((x) => [x.reached, x.found, x.seen, x.soils]))
    case 'as_left':
      return JSON.stringify(sides.map((x) => [x.left, x.left_seen]))
    case 'advice':
      return w.coils.every((c) => !c.on || c.method)
        ? JSON.stringify(w.coils.map((c) => [c.plan, c.setting_id]))
        : 'open'
    case 'rinse':
      return JSON.stringify(w.coils.map((c) => c.end_points))
  }
  return ''
}
