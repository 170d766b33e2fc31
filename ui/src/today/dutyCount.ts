import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'

/** How many duties wait for the person who is signed in. */
export function useDutyCount() {
  const { data } = useQuery({ queryKey: ['duties'], queryFn: () => take(api.GET('/api/duties/count')) })
  return computed(() => data.value?.duties ?? 0)
}
