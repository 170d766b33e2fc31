import { api, take } from '@/shared/api/client'

export const seriesQuery = (id: number) => ({
  queryKey: ['series', id],
  queryFn: () => take(api.GET('/api/series/{id}', { params: { path: { id } } })),
})
