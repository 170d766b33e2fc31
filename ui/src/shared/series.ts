import { api, take } from './api/client'

/** All series by their codes, to choose one of them. */
export const seriesNames = {
  queryKey: ['series', 'names'],
  queryFn: () => take(api.GET('/api/series/names')),
}
