import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { useUrl } from '@/shared/url'

export type ItemQuery = Schemas['ItemQuery']

/** What the address says of the list of items. */
export function useItemQuery() {
  const { list, text, put } = useUrl()
  const numbers = (name: string) => list(name).map(Number)
  const query = computed<ItemQuery>(() => ({
    cql: text('cql').value || null,
    state: list('state'),
    series: numbers('series'),
    unfiled: list('unfiled').length > 0 ? true : null,
    source: numbers('source'),
    container: numbers('container'),
    unit: numbers('unit'),
    type: list('type'),
    owner: list('owner'),
    kind: list('kind'),
    year: numbers('year'),
    size: numbers('size'),
    searchable: list('searchable'),
    subject: list('subject'),
    thread: list('thread'),
    filingRule: numbers('filingRule'),
    suggested: numbers('suggested'),
    hash: text('hash').value || null,
    missing: list('missing').length > 0 ? true : null,
  }))
  /** For an address: what is not asked is left out. */
  const forUrl = computed(
    () =>
      Object.fromEntries(
        Object.entries(query.value).filter(([, v]) => v !== null && !(Array.isArray(v) && v.length === 0)),
      ) as Record<string, never>,
  )
  const clear = () => put(Object.fromEntries(Object.keys(query.value).map((name) => [name, null])))
  return { query, forUrl, list, text, put, clear }
}
