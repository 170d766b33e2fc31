import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'

/** The kinds of watch with their sentences; they change with the program alone. */
export const useWatchKinds = () =>
  useQuery({
    queryKey: ['watch-kinds'],
    queryFn: () => take(api.GET('/api/watches/kinds')),
    staleTime: Infinity,
  }).data
