import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { today } from '@/shared/session'
import { useUrl } from '@/shared/url'

const spans = { '1': 'a day', '7': 'a week', '30': '30 days', '90': '90 days', '': 'all time' } as const
export type Span = keyof typeof spans
export const spanWords: Record<string, string> = spans

/** The span of time that a place looks at: so many days up to today, kept in the address. */
export function useSpan(usual: Span = '30') {
  const { text } = useUrl()
  const days = computed({
    get: () => text('days').value || usual,
    set: (d: string) => (text('days').value = d === usual ? '' : d),
  })
  const params = computed(() => spanOf(days.value))
  return { days, params }
}

/** So many days up to the end of today; nothing for all time. */
export function spanOf(days: string): { from?: string; before?: string } {
  if (days === 'all') return {}
  const end = new Date(`${today.value}T00:00:00Z`).getTime() + 86_400_000
  return { from: new Date(end - Number(days) * 86_400_000).toISOString(), before: new Date(end).toISOString() }
}

/** The address of a search. */
export const searchFor = (cql: string, days?: string) => ({
  path: '/activity/search',
  query: { cql: cql || undefined, days: days || undefined },
})

export const useInvestigations = () =>
  useQuery({ queryKey: ['investigations'], queryFn: () => take(api.GET('/api/investigations')) })

/** A value as a term that means itself. */
export const term = (value: string) => `"${value.replace(/["\\*?^]/g, '\\$&')}"`
