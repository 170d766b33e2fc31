import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'

export const itemQuery = (id: number) => ({
  queryKey: ['item', id],
  queryFn: () => take(api.GET('/api/items/{id}', { params: { path: { id } } })),
})

export const useItem = (id: () => number) => useQuery(computed(() => itemQuery(id())))
