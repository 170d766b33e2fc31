import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import type { Problem } from './api/client'

interface Options {
  /** Whether what is shown is read anew afterwards; a place that puts the answer in itself says no. */
  refresh?: boolean
  /** What to do about a refusal besides showing it. */
  refused?: (problem: Problem) => Promise<unknown>
}

/** Acts of one place: one at a time, with the refusal of the last one kept to be shown where it was asked. */
export function useAct({ refresh = true, refused }: Options = {}) {
  const client = useQueryClient()
  const busy = ref(false)
  const problem = ref<Problem | null>(null)

  /** Whether the work was done; a second press while it runs is not a second act. */
  async function act(work: () => Promise<unknown>): Promise<boolean> {
    if (busy.value) return false
    busy.value = true
    problem.value = null
    try {
      await work()
      if (refresh) await client.invalidateQueries()
      return true
    } catch (e) {
      problem.value = e as Problem
      await refused?.(e as Problem)
      return false
    } finally {
      busy.value = false
    }
  }
  return { act, busy, problem }
}
