import { ref, type Ref, watch } from 'vue'

import { compute, CoreProblem } from '../../core'

/** Runs a function of the core whenever its input changes; an older answer never overtakes a newer one. */
export function useCore<T>(topic: string, input: () => unknown) {
  const result = ref(null) as Ref<T | null>
  const failed = ref('')
  let asked = 0
  watch(
    () => JSON.stringify(input()),
    async (text) => {
      const mine = ++asked
      if (text === undefined || text === 'null') {
        result.value = null
        failed.value = ''
        return
      }
      try {
        const out = await compute<T>(topic, JSON.parse(text))
        if (mine === asked) {
          result.value = out
          failed.value = ''
        }
      } catch (e) {
        if (mine !== asked) return
        result.value = null
        failed.value =
          e instanceof CoreProblem && e.fields.length
            ? e.fields.map((f) => `${f.path.replaceAll('_', ' ')} ${f.reason}`).join('; ')
            : String(e instanceof Error ? e.message : e)
      }
    },
    { immediate: true },
  )
  return { result, failed }
}
