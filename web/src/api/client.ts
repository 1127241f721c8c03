import createClient from 'openapi-fetch'
import { ref } from 'vue'

import type { components, paths } from './schema'

export type Schemas = components['schemas']

/** What the server found wrong, in words, with the fields it concerns. */
export class ApiProblem extends Error {
  readonly status: number
  readonly fields: Schemas['FieldError'][]
  readonly requestId: string | undefined
  /** Saved meanwhile, where somebody else saved first. */
  readonly current: Record<string, unknown> | undefined

  constructor(
    status: number,
    detail: string,
    fields: Schemas['FieldError'][],
    requestId?: string,
    current?: Record<string, unknown>,
  ) {
    super(detail)
    this.current = current
    this.status = status
    this.fields = fields
    this.requestId = requestId
  }
}

export const api = createClient<paths>({ baseUrl: '/api/v1' })

/** How far this device's clock is ahead of the server's, in milliseconds, as last noticed; null while the server was not reached. */
export const ahead = ref<number | null>(null)
/** Whether the server knows nobody any more who was signed in here. */
export const expired = ref(false)
const begun = new WeakMap<Request, number>()
api.use({
  onRequest: ({ request }) => {
    begun.set(request, Date.now())
  },
  onResponse: ({ request, response }) => {
    const said = Date.parse(response.headers.get('Date') ?? '')
    const from = begun.get(request)
    // The server's clock is told in whole seconds, and was read somewhere between asking and answering.
    if (!Number.isNaN(said) && from !== undefined) ahead.value = (from + Date.now()) / 2 - (said + 500)
    if (response.status === 401 && !request.url.endsWith('/session')) expired.value = true
    else if (response.ok && response.status !== 304) expired.value = false
  },
})

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** Waits for a call and gives its data, or throws an ApiProblem that a form can show. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await call
  } catch {
    throw new ApiProblem(0, 'The server cannot be reached. Nothing was lost here; try again.', [])
  }
  if (answer.response.ok) return answer.data as T
  const problem = answer.error as Partial<Schemas['Problem']> | undefined
  throw new ApiProblem(
    answer.response.status,
    problem?.detail ?? `The server answered ${answer.response.status}.`,
    problem?.errors ?? [],
    problem?.request_id,
    problem?.current,
  )
}

/** Sends a file as it is. */
export const asFile = {
  bodySerializer: (b: unknown) => b as BodyInit,
  headers: { 'Content-Type': 'application/octet-stream' },
}

export function problemOf(e: unknown): ApiProblem {
  return e instanceof ApiProblem ? e : new ApiProblem(0, e instanceof Error ? e.message : String(e), [])
}
