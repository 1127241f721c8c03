import { readonly, ref, watch } from 'vue'

import { api, ask, ApiProblem, type Schemas } from './api/client'

const current = ref<Schemas['Session'] | null>(null)
let asked: Promise<void> | null = null

/** Who is signed in; asked of the server once per page load. */
export const session = readonly(current)

watch(current, (s) => showTheme(s?.theme ?? 'auto'))

/** Paper by day, plant room by night; auto follows the device. */
function showTheme(theme: Schemas['Session']['theme']) {
  const dark =
    theme === 'dark' || (theme === 'auto' && window.matchMedia('(prefers-color-scheme: dark)').matches)
  document.documentElement.dataset.theme = dark ? 'dark' : 'light'
}

/** Takes over a session the server has begun or changed. */
export function takeSession(s: Schemas['Session']) {
  current.value = s
  remember(s)
  asked = Promise.resolve()
  forgetCatalogue()
}

/** Who was signed in last on this phone: without network the work goes on under that name. */
const lastKey = 'last-session'
function remember(s: Schemas['Session'] | null) {
  if (s) localStorage.setItem(lastKey, JSON.stringify(s))
  else localStorage.removeItem(lastKey)
}
function remembered(): Schemas['Session'] | null {
  try {
    return JSON.parse(localStorage.getItem(lastKey) ?? 'null') as Schemas['Session'] | null
  } catch {
    return null
  }
}

/** A sign-out that could not reach the server: it is done before anything else is asked. */
const leavingKey = 'signing-out'

export async function loadSession(): Promise<void> {
  if (localStorage.getItem(leavingKey)) {
    current.value = null
    await ask(api.DELETE('/session')).then(
      () => localStorage.removeItem(leavingKey),
      (e: unknown) => {
        if (e instanceof ApiProblem && e.status === 401) localStorage.removeItem(leavingKey)
        else throw e
      },
    )
    return
  }
  asked ??= ask(api.GET('/session')).then(
    (s) => {
      current.value = s
      remember(s)
    },
    (e: unknown) => {
      asked = null
      if (e instanceof ApiProblem && e.status === 401) {
        remember(null)
        return
      }
      current.value = remembered()
      if (!current.value) throw e
    },
  )
  await asked
}

export async function signIn(login: string, password: string, code = ''): Promise<void> {
  localStorage.removeItem(leavingKey)
  takeSession(await ask(api.POST('/session', { body: { login, password, ...(code ? { code } : {}) } })))
}

/** Asks the server once more who is signed in. */
export async function refreshSession(): Promise<void> {
  takeSession(await ask(api.GET('/session')))
}

/** The session was ended on the server: nobody is signed in here any more. */
export function forgetSession(): void {
  current.value = null
  remember(null)
  asked = null
  forgetCatalogue()
}

/** Ends the session; without network it is over on this device at once, and on the server as soon as that is reached. */
export async function signOut(): Promise<void> {
  localStorage.setItem(leavingKey, 'yes')
  try {
    await ask(api.DELETE('/session'))
    localStorage.removeItem(leavingKey)
  } catch (e) {
    if (!(e instanceof ApiProblem) || (e.status !== 0 && e.status < 502)) {
      localStorage.removeItem(leavingKey)
      throw e
    }
  }
  forgetSession()
}

export const mayManage = () => current.value?.role === 'manager'
/** May manage what concerns the whole organisation, not some sites only. */
export const mayManageHouse = () => mayManage() && current.value?.all_sites === true
export const mayRecord = () => current.value?.role === 'manager' || current.value?.role === 'technician'

let catalogue: Promise<Schemas['Catalogue']> | null = null

/** What the forms offer; read once, and again after it failed. */
export function loadCatalogue(): Promise<Schemas['Catalogue']> {
  catalogue ??= ask(api.GET('/catalogue')).catch((e: unknown) => {
    catalogue = null
    throw e
  })
  return catalogue
}

/** Has the catalogue read again when it is next asked for. */
export function forgetCatalogue(): void {
  catalogue = null
}
