import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { may } from '@/shared/session'

/** How many groups that are due and batches that are open wait on the docket. */
export function useDocketCount() {
  const { data } = useQuery({
    queryKey: ['docket'],
    queryFn: () => take(api.GET('/api/docket')),
    enabled: computed(() => may('readDocket')),
  })
  return computed(
    () =>
      (data.value?.due.length ?? 0) +
      (data.value?.batches.filter((b) => b.state === 'open' || b.state === 'signing').length ?? 0),
  )
}
