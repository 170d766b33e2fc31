import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'

export const useMyEvidence = () =>
  useQuery({ queryKey: ['evidence', 'mine'], queryFn: () => take(api.GET('/api/evidence/mine')) })

/** Whether a control or an audit names the person, or something is kept for a role of theirs. */
export function useHasEvidence() {
  const { data } = useMyEvidence()
  return computed(
    () => !!data.value && data.value.parts.length + data.value.requests.length + data.value.actions.length > 0,
  )
}
