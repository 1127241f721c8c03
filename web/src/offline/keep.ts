/**
 * Has the application itself kept on this phone, so that it opens without network. It waits until the browser is idle: what
 * somebody came for goes first. A newer version that was fetched meanwhile takes over at the next opening, but never in the
 * middle of a visit.
 */
export function keepApplication(): void {
  if (!('serviceWorker' in navigator)) return
  const register = () => void keep().catch(() => undefined)
  if ('requestIdleCallback' in window) window.requestIdleCallback(register, { timeout: 4000 })
  else setTimeout(register, 2000)
}

async function keep(): Promise<void> {
  const registration = await navigator.serviceWorker.register('/sw.js')
  if (!registration.waiting || location.pathname.endsWith('/work')) return
  navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true })
  registration.waiting.postMessage({ type: 'SKIP_WAITING' })
}
