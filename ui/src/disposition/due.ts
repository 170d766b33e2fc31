import type { Schemas } from '@/shared/api/client'
import { monthWords } from '@/shared/format'

type Due = Schemas['DueGroup']
/** A line of what is due: a series or a blanket as a whole, or one month of a series. */
export type Entry = { group: Due; month: Schemas['DueMonth'] | null }

const monthsOf = (group: Due) => group.months.map((month): Entry => ({ group, month }))

/** Each group as a whole, and after it its months. */
export const entriesOf = (due: readonly Due[]) =>
  due.flatMap((group): Entry[] => [{ group, month: null }, ...monthsOf(group)])

/**
 * What is due, under headings: by series (one section without a heading, in which the months of what is unfolded stand
 * beneath their series), by month, or by unit.
 */
export function sectionsOf(due: readonly Due[], by: string, unfolded: ReadonlySet<number>): [string, Entry[]][] {
  const whole = due.map((group): Entry => ({ group, month: null }))
  if (by === 'month')
    return under(
      entriesOf(due).filter((e) => e.month || e.group.blanketId),
      (e) => e.month?.month ?? '',
    ).map(([key, list]) => [key ? monthWords(key) : 'Under blankets', list])
  if (by === 'unit') return under(whole, (e) => e.group.unit)
  return due.length
    ? [['', whole.flatMap((e) => [e, ...(unfolded.has(e.group.series.id) ? monthsOf(e.group) : [])])]]
    : []
}

function under(list: Entry[], key: (e: Entry) => string): [string, Entry[]][] {
  const found: Record<string, Entry[]> = {}
  for (const e of list) (found[key(e)] ??= []).push(e)
  return Object.entries(found).sort(([a], [b]) => (a < b ? -1 : 1))
}
