/** What is kept on the device: a phone that is full, or keeps nothing, says so at once instead of losing work later. */

/** What the screen says when the device refused to keep something. */
export function refusal(e: unknown): string {
  if (e instanceof DOMException && e.name === 'QuotaExceededError')
    return 'This phone is full: what you do here is not kept. Free some space (under To send), or send what waits, before you go on.'
  return `This phone keeps nothing for this page (${e instanceof Error ? e.message : String(e)}): do not close or reload it before the visit is sent.`
}

/** Writes something down under a key; empty when it was kept, else what to say. */
export function putDown(key: string, value: unknown): string {
  try {
    localStorage.setItem(key, JSON.stringify(value))
    return ''
  } catch (e) {
    return refusal(e)
  }
}
