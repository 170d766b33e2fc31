import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { may } from '@/shared/session'

export const useMatters = () => useQuery({ queryKey: ['matters'], queryFn: () => take(api.GET('/api/matters')) })

/** Orders of one's own matters that take items by hand. */
export const useOpenOrders = () =>
  useQuery({ queryKey: ['hold-orders'], queryFn: () => take(api.GET('/api/hold-orders')) })

/** Whether there is anything to do in matters: one's own, or the right to open some. */
export function useHasMatters() {
  const { data } = useMatters()
  return computed(() => may('openMatters') || (data.value?.length ?? 0) > 0)
}

export function useHasOrders() {
  const { data } = useOpenOrders()
  return computed(() => (data.value?.length ?? 0) > 0)
}

/** The search of activity for a question, over all time. */
export const activitySearch = (cql: string) => ({ path: '/activity/search', query: { cql, days: 'all' } })

export const matterQuery = (id: number) => ({
  queryKey: ['matter', id],
  queryFn: () => take(api.GET('/api/matters/{id}', { params: { path: { id } } })),
})
