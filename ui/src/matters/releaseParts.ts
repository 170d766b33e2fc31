import type { Schemas } from '@/shared/api/client'

const s = (items: number) => (items === 1 ? 's' : '')

/** How the items of a release stand afterwards, the urgent first. */
export const releaseParts = (f: Schemas['ReleaseFigures']) => [
  { group: 'becomesDue', tally: f.becomeDue, label: `become${s(f.becomeDue.items)} due`, tone: 'copper' },
  { group: 'staysHeld', tally: f.stayHeld, label: `stay${s(f.stayHeld.items)} held by other orders`, tone: 'plum' },
  { group: 'staysKept', tally: f.stayKept, label: `stay${s(f.stayKept.items)} under retention`, tone: 'sea' },
  { group: 'free', tally: f.free, label: 'under no rule: people may delete', tone: 'ink' },
]
