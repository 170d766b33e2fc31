import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'

export const useOwned = () => useQuery({ queryKey: ['owned'], queryFn: () => take(api.GET('/api/owned')) })

/** Whether the directory names the person as the owner of anything. */
export function useOwnsSomething() {
  const { data } = useOwned()
  return computed(() => (data.value?.things.length ?? 0) > 0)
}
