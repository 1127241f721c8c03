import { readonly, ref } from 'vue'

import { api, ask, ApiProblem, type Schemas } from './api/client'

const current = ref<Schemas['Session'] | null>(null)
let asked: Promise<void> | null = null

/** Who is signed in; asked of the server once per page load. */
export const session = readonly(current)

export async function loadSession(): Promise<void> {
  asked ??= ask(api.GET('/session')).then(
    (s) => {
      current.value = s
    },
    (e: unknown) => {
      asked = null
      if (!(e instanceof ApiProblem) || e.status !== 401) throw e
    },
  )
  await asked
}

export async function signIn(login: string, password: string): Promise<void> {
  current.value = await ask(api.POST('/session', { body: { login, password } }))
  forgetCatalogue()
}

export async function signOut(): Promise<void> {
  await ask(api.DELETE('/session'))
  current.value = null
  asked = null
  forgetCatalogue()
}

export const mayManage = () => current.value?.role === 'manager'
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

function forgetCatalogue(): void {
  catalogue = null
}
