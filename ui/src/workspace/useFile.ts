import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'

export const useFile = (id: number) =>
  useQuery({
    queryKey: ['file', id],
    queryFn: () => take(api.GET('/api/workspace/files/{id}', { params: { path: { id } } })),
  })
