import { ref } from 'vue'

import { type ApiProblem, problemOf } from '../api/client'

/** Sending something: whether it is on its way, and what was refused last. */
export function useSubmit() {
  const busy = ref(false)
  const refused = ref<ApiProblem | null>(null)
  async function submit(work: () => Promise<void>) {
    busy.value = true
    refused.value = null
    try {
      await work()
    } catch (e) {
      refused.value = problemOf(e)
    } finally {
      busy.value = false
    }
  }
  return { busy, refused, submit }
}
