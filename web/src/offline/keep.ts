/**
 * Has the application itself kept on this phone, so that it opens without network. It waits until the browser is idle: what
 * somebody came for goes first.
 */
export function keepApplication(): void {
  if (!('serviceWorker' in navigator)) return
  const register = () => void navigator.serviceWorker.register('/sw.js').catch(() => undefined)
  if ('requestIdleCallback' in window) window.requestIdleCallback(register, { timeout: 4000 })
  else setTimeout(register, 2000)
}
