import { useQuery, useQueryClient, type QueryKey } from '@tanstack/vue-query'
import { computed, ref, watch, type Ref } from 'vue'

/**
 * Which of a list's things the pane shows: the one that is open, as soon as its answer is there. Until then the pane
 * goes on showing the last one.
 * @param query The same key and question as the pane's own, so that it is asked once.
 */
export function useLoaded(
  open: Readonly<Ref<number | null>>,
  query: (id: number) => { queryKey: QueryKey; queryFn: () => Promise<unknown> },
) {
  const client = useQueryClient()
  const { status, fetchStatus } = useQuery(
    computed(() => ({ ...query(open.value ?? 0), enabled: open.value !== null })),
  )
  const shown = ref(open.value)
  /** Answered, be it with a refusal: the pane says so. */
  const answered = (id: number) => (client.getQueryState(query(id).queryKey)?.status ?? 'pending') !== 'pending'
  watch(
    [open, status, fetchStatus],
    () => {
      if (open.value === null || shown.value === null || answered(open.value)) shown.value = open.value
    },
    { flush: 'sync' },
  )
  return shown
}
