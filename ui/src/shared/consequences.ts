import type { Schemas } from '@/shared/api/client'
import { plural } from './format'

type Figures = Schemas['ConsequencesView']['figures']

/** What a change does, group by group: the first always, the others where they say something. */
export function figuresOf(f: Figures) {
  return [
    { group: 'becomesDue', tally: f.becomeDue, one: 'becomes due today', many: 'become due today', tone: 'copper' },
    { group: 'sooner', tally: f.sooner, one: 'is kept shorter', many: 'are kept shorter', tone: 'ink' },
    { group: 'later', tally: f.later, one: 'is kept longer', many: 'are kept longer', tone: 'ink' },
    {
      group: 'disposableSooner',
      tally: f.disposableSooner,
      one: 'may be disposed of earlier, kept as long',
      many: 'may be disposed of earlier, kept as long',
      tone: 'copper',
    },
    {
      group: 'disposableLater',
      tally: f.disposableLater,
      one: 'may be disposed of later, kept as long',
      many: 'may be disposed of later, kept as long',
      tone: 'ink',
    },
    {
      group: 'endsOtherwise',
      tally: f.endsOtherwise,
      one: 'ends otherwise than before',
      many: 'end otherwise than before',
      tone: 'ink',
    },
    {
      group: 'newlyUnderRule',
      tally: f.newlyUnderRule,
      one: 'comes under a rule',
      many: 'come under a rule',
      tone: 'sea',
    },
    {
      group: 'losesProtection',
      tally: f.loseProtection,
      one: 'loses protection',
      many: 'lose protection',
      tone: 'copper',
    },
    {
      group: 'heldBack',
      tally: f.heldBack,
      one: 'is kept back by a hold',
      many: 'are kept back by holds',
      tone: 'plum',
    },
    { group: 'noLongerDue', tally: f.noLongerDue, one: 'is no longer due', many: 'are no longer due', tone: 'ink' },
    { group: 'none', tally: f.unchanged, one: 'stays as it is', many: 'stay as they are', tone: 'ink' },
  ]
    .map((x) => ({ ...x, label: x.tally.items === 1 ? x.one : x.many }))
    .filter((x, i) => i < 1 || x.tally.items > 0 || x.group === 'sooner' || x.group === 'newlyUnderRule')
}

/** How many items an act makes due at once, as a button or a sentence says it. */
export const becomeDue = (items: number) =>
  items === 0 ? 'none becomes due today' : plural(items, 'becomes due today', 'become due today')

/**
 * What falls due before and after, for the first three years by month and beyond by year, so that no month is lost and
 * none is too thin to see.
 */
export function monthsOf(all: Figures['byMonth']) {
  const names = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
  const first = all[0]?.month
  if (!first) return []
  const index = (iso: string) => +iso.slice(0, 4) * 12 + +iso.slice(5, 7) - 1
  const start = index(first)
  const last = Math.max(start + 11, index(all.at(-1)!.month))
  const byYear = last - start > 35
  const buckets = new Map<string, { label: string; before: number; after: number }>()
  for (let m = start; m <= last; m++) {
    const year = Math.floor(m / 12)
    const label = byYear ? String(year) : `${names[m % 12]} ${year}`
    if (!buckets.has(label)) buckets.set(label, { label, before: 0, after: 0 })
  }
  for (const m of all) {
    const label = byYear ? m.month.slice(0, 4) : `${names[+m.month.slice(5, 7) - 1]} ${m.month.slice(0, 4)}`
    const bucket = buckets.get(label)!
    bucket.before += m.before
    bucket.after += m.after
  }
  return [...buckets.values()]
}
