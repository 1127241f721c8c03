/**
 * The Go core in the browser: the same functions as `nextround calc`, so that a visit without network works out the same
 * advice, mix, dwell and verdicts as the server would.
 */
interface GoRuntime {
  importObject: WebAssembly.Imports
  run(instance: WebAssembly.Instance): Promise<void>
}
declare global {
  interface Window {
    Go?: new () => GoRuntime
    nextroundCore?: (topic: string, input: string) => string
  }
}

export interface CoreField {
  path: string
  reason: string
}

/** What the core found wrong with its input, in words. */
export class CoreProblem extends Error {
  readonly fields: CoreField[]
  constructor(message: string, fields: CoreField[]) {
    super(message)
    this.fields = fields
  }
}

let ready: Promise<void> | null = null

/** Loads the core once; again after it failed. */
export function loadCore(): Promise<void> {
  ready ??= begin().catch((e: unknown) => {
    ready = null
    throw e
  })
  return ready
}

async function begin(): Promise<void> {
  const [bytes] = await Promise.all([unpacked('/core.wasm.gz'), script('/wasm_exec.js')])
  const go = new window.Go!()
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject)
  void go.run(instance)
}

async function unpacked(address: string): Promise<ArrayBuffer> {
  const answer = await fetch(address)
  if (!answer.ok || !answer.body) throw new Error('The calculator could not be loaded.')
  return new Response(answer.body.pipeThrough(new DecompressionStream('gzip'))).arrayBuffer()
}

function script(address: string): Promise<void> {
  return new Promise((done, failed) => {
    const tag = document.createElement('script')
    tag.src = address
    tag.onload = () => done()
    tag.onerror = () => failed(new Error('The calculator could not be loaded.'))
    document.head.append(tag)
  })
}

/** Runs a function of the core; throws a CoreProblem when its input is wrong. */
export async function compute<T>(topic: string, input: unknown): Promise<T> {
  await loadCore()
  const answer = JSON.parse(window.nextroundCore!(topic, JSON.stringify(input))) as {
    result?: T
    fields?: { field: string; reason: string }[]
    error?: string
  }
  if (answer.error !== undefined || answer.result === undefined) {
    throw new CoreProblem(
      answer.error ?? 'This cannot be worked out.',
      (answer.fields ?? []).map((f) => ({ path: f.field, reason: f.reason })),
    )
  }
  return answer.result
}
