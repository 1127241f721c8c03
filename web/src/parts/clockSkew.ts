/** A clock is taken to be wrong from so far on, in milliseconds (assumption). */
const tolerated = 120_000

/** How far off a clock is, in words; null where it is near enough. */
export function clockSkew(ahead: number | null): { ms: number; words: string } | null {
  if (ahead === null || Math.abs(ahead) < tolerated) return null
  const minutes = Math.round(Math.abs(ahead) / 60_000)
  const h = Math.floor(minutes / 60)
  const spell = h ? `${h} h${minutes % 60 ? ` ${minutes % 60} min` : ''}` : `${minutes} min`
  return { ms: ahead, words: `${spell} ${ahead > 0 ? 'ahead of' : 'behind'}` }
}
