import { ref, type Ref } from 'vue'

import { ApiProblem, problemOf } from '../api/client'

export interface Load<T> {
  data: Ref<T | null>
  problem: Ref<ApiProblem | null>
  loading: Ref<boolean>
  reload: () => Promise<void>
}

/** Loads something at once and again on demand; the last answer stays while the next is on its way. */
export function useLoad<T>(get: () => Promise<T>): Load<T> {
  const data = ref(null) as Ref<T | null>
  const problem = ref(null) as Ref<ApiProblem | null>
  const loading = ref(true)
  let newest = 0
  async function reload() {
    const mine = ++newest
    loading.value = true
    try {
      const answer = await get()
      if (mine !== newest) return
      data.value = answer
      problem.value = null
    } catch (e) {
      if (mine === newest) problem.value = problemOf(e)
    } finally {
      if (mine === newest) loading.value = false
    }
  }
  void reload()
  return { data, problem, loading, reload }
}
