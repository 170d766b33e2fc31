import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import type { Problem } from './api/client'

interface Options {
  /** Whether what is shown is read anew afterwards; a place that puts the answer in itself says no. */
  refresh?: boolean
  /** Each press is an act of its own and waits its turn, where one press after the other is meant: marking a list. */
  inTurn?: boolean
  /** What to do about a refusal besides showing it. */
  refused?: (problem: Problem) => Promise<unknown>
}

/** Acts of one place: one at a time, with the refusal of the last one kept to be shown where it was asked. */
export function useAct({ refresh = true, inTurn = false, refused }: Options = {}) {
  const client = useQueryClient()
  const busy = ref(false)
  const problem = ref<Problem | null>(null)
  let turn: Promise<unknown> = Promise.resolve()

  function act(work: () => Promise<unknown>): Promise<boolean> {
    if (!inTurn) return once(work)
    const mine = turn.then(() => once(work))
    turn = mine
    return mine
  }

  /** Whether the work was done; a second press while it runs is not a second act. */
  async function once(work: () => Promise<unknown>): Promise<boolean> {
    if (busy.value) return false
    busy.value = true
    problem.value = null
    try {
      await work()
      // Whoever marks a list does not wait for the list to be read anew.
      if (refresh && inTurn) void client.invalidateQueries()
      else if (refresh) await client.invalidateQueries()
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
