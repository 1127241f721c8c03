import { session } from '../session'

/**
 * Whose what is kept on this phone is: of who is signed in, or of the link that a page was opened by. Nobody else opens it,
 * with or without network; empty while nobody is known.
 */
export function owner(): string {
  const link = /^\/g\/([^/]+)/.exec(location.pathname)
  return link ? `link-${link[1]}` : (session.value?.person_id ?? '')
}

/** The key of something written down for a unit. */
export const ownKey = (kind: 'work' | 'draft', unit: string, who = owner()) => `${kind}:${who}:${unit}`

/** The units of which somebody has begun a visit that was not sent. */
export function begun(who = owner()): string[] {
  return Object.keys(localStorage)
    .filter((k) => k.startsWith(ownKey('work', '', who)) || k.startsWith(ownKey('draft', '', who)))
    .map((k) => k.split(':').pop()!)
}
