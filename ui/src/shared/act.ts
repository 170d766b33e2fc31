import { hashKey, useQueryClient, type QueryClient, type QueryKey } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { ref } from 'vue'
import type { Problem } from './api/client'
import { proveLink } from './linkCode'
import { staleBy } from './parts'

interface Options {
  /** Each press is an act of its own and waits its turn, where one press after the other is meant: marking a list. */
  inTurn?: boolean
  /** What to do about a refusal besides showing it. */
  refused?: (problem: Problem) => Promise<unknown>
}

/**
 * Reads anew what changes made stale and somebody looks at; what was put in place by the act itself is left as it is.
 */
export const refresh = (client: QueryClient, changes: readonly string[], fresh: ReadonlySet<string> = new Set()) => {
  const keys = staleBy(changes)
  return client.invalidateQueries({
    predicate: ({ queryKey, queryHash }) =>
      !fresh.has(queryHash) && keys.some((key) => key.every((part, i) => hashKey([queryKey[i]]) === hashKey([part]))),
  })
}

/** A decision by link that asks for a code is sent again once the code was right. */
async function provenly(work: () => Promise<unknown>) {
  try {
    return await work()
  } catch (e) {
    if ((e as Problem).code !== 'link-code-needed' || !(await proveLink())) throw e
    return await work()
  }
}

/** What waits for a second person was asked for: that is said, and the act is over. */
async function asked(work: () => Promise<unknown>) {
  try {
    return await provenly(work)
  } catch (e) {
    if ((e as Problem).code !== 'second-person-asked') throw e
    ElMessage({ message: (e as Problem).message, type: 'info', duration: 6000 })
  }
}

/**
 * Acts of one place: one at a time, with the refusal of the last one kept to be shown where it was asked.
 * @param changes What they change, in the words of the parts; nothing else is read anew.
 */
export function useAct(changes: readonly string[], { inTurn = false, refused }: Options = {}) {
  const client = useQueryClient()
  const busy = ref(false)
  const problem = ref<Problem | null>(null)
  let turn: Promise<unknown> = Promise.resolve()
  let fresh = new Set<string>()

  /** Puts an answer of the act in its place: it is not asked for again. */
  function put<T>(key: QueryKey, value: T): T {
    client.setQueryData(key, value)
    fresh.add(hashKey(key))
    return value
  }

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
    fresh = new Set()
    try {
      await asked(work)
      const read = changes.length ? refresh(client, changes, fresh) : Promise.resolve()
      // Whoever marks a list does not wait for the list to be read anew.
      if (!inTurn) await read
      return true
    } catch (e) {
      problem.value = e as Problem
      await refused?.(e as Problem)
      return false
    } finally {
      busy.value = false
    }
  }
  return { act, busy, problem, put }
}
