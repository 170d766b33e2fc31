import type { Schemas } from '@/shared/api/client'

export type ItemState = Schemas['ItemState']
export type Role = Schemas['Role']
export type Cutoff = Schemas['Cutoff']

export const stateWords: Record<ItemState, string> = {
  noRule: 'No rule',
  inTerm: 'In term',
  awaitingEvent: 'Awaiting event',
  due: 'Due',
  onDocket: 'On docket',
  held: 'Held',
  permanent: 'Permanent',
  destroyed: 'Destroyed',
  handedOver: 'Handed over',
}

export const roleWords: Record<Role, string> = {
  recordsManager: 'records manager',
  steward: 'steward',
  staff: 'staff',
  administrator: 'administrator',
  legal: 'legal',
  legalLead: 'legal lead',
  securityAnalyst: 'security analyst',
  auditManager: 'audit manager',
  externalAuditor: 'external auditor',
}

export const cutoffWords: Record<Cutoff, string> = {
  none: 'day',
  month: 'month',
  quarter: 'quarter',
  year: 'calendar year',
  fiscal: 'fiscal year',
}

const numbers = ['no', 'a', 'two', 'three', 'four', 'five', 'six']

/** A stage that anybody with the role signs within a fortnight. */
export const stageOf = (role: Role): Schemas['Stage'] => ({ role, person: '', deputy: '', days: 14 })

/** `ines.calloway` of a mail address: who signs, short enough for a sentence. */
const short = (mail: string) => mail.split('@')[0]!

/** `a steward and two records managers`; stages are signed in the order told. */
export function signers(stages: readonly Schemas['Stage'][]): string {
  const runs: { role: Role; person: string; count: number }[] = []
  for (const stage of stages) {
    const last = runs.at(-1)
    if (last?.role === stage.role && !last.person && !stage.person) last.count++
    else runs.push({ role: stage.role, person: stage.person, count: 1 })
  }
  const told = runs.map((r) =>
    r.person ? short(r.person) : `${numbers[r.count] ?? r.count} ${roleWords[r.role]}${r.count > 1 ? 's' : ''}`,
  )
  return told.length < 2 ? (told[0] ?? 'nobody') : `${told.slice(0, -1).join(', then ')} and ${told.at(-1)}`
}

export interface SimplePeriod {
  count: number
  unit: 'Y' | 'M' | 'W' | 'D'
}

const unitWords = { Y: 'year', M: 'month', W: 'week', D: 'day' }

/** Reads `P7Y`; null for a period of several units or none at all. */
export function simplePeriod(iso: string | null): SimplePeriod | null {
  const match = /^P(\d+)([YMWD])$/.exec(iso ?? '')
  return match ? { count: Number(match[1]), unit: match[2] as SimplePeriod['unit'] } : null
}

/** A period in words, right for one and many. */
export function periodWords(iso: string | null): string {
  const parts = [...(iso ?? '').matchAll(/(\d+)([YMWD])/g)].map(
    ([, n, u]) => `${n} ${unitWords[u as SimplePeriod['unit']]}${n === '1' ? '' : 's'}`,
  )
  if (parts.length && !/[1-9]/.test(iso!)) return 'no time'
  if (parts.length === 0) return 'some time'
  return parts.length === 1 ? parts[0]! : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`
}

/** Where the clock starts, as the end of “… in which”. */
export function triggerWords(trigger: string): string {
  if (trigger === 'created') return 'it was created'
  if (trigger === 'modified') return 'it was last modified'
  if (trigger === 'filed') return 'it was filed'
  const [kind, name] = [
    trigger.slice(0, trigger.indexOf(':')),
    trigger.slice(trigger.indexOf(':') + 1).replaceAll('-', ' '),
  ]
  return kind === 'event' ? `“${name}” happened to its subject` : `its “${name}” date falls`
}

/** What happens at the end, as what follows “then”. */
export function endWords(d: Schemas['SeriesDefinition']): string {
  if (d.atEnd === 'signOff' || d.atEnd === 'transfer')
    return `${signers(d.stages)} sign${d.stages.length === 1 ? 's' : ''} off`
  return d.atEnd === 'destroy' ? 'it is destroyed at once' : 'nothing happens'
}

/** A rule in a few words, for lists of versions. */
export function ruleWords(d: Schemas['SeriesDefinition']): string {
  if (d.permanent) return 'permanently'
  const told = d.clauses.map((c) => periodWords(c.period))
  return told.length === 1 ? told[0]! : `${d.join} of ${told.join(' and ')}`
}

export const gradeWords: Record<Schemas['Grade'], string> = {
  none: 'none',
  kept: 'Kept',
  declared: 'Declared',
  worm: 'WORM',
}

/** The verbs of the ledger in words. */
export const verbWords = (verb: string) => verb.replaceAll('-', ' ')

const indexes: Record<string, string> = {
  text: 'title or text',
  title: 'title',
  author: 'author',
  owner: 'owner',
  path: 'path',
  type: 'type',
  source: 'source',
  container: 'container',
  unit: 'unit',
  series: 'series',
  grade: 'grade',
  state: 'state',
  sensitive: 'sensitive kind',
  created: 'created',
  modified: 'modified',
  size: 'size',
  docdate: 'document date',
}
/** An index of the query language as a person says it. */
export const indexWords = (name: string) =>
  indexes[name] ?? `“${name.replace(/^field\./, '').replaceAll('-', ' ')}” field`

const relations: Record<string, Record<string, string>> = {
  words: {
    '=': 'have',
    all: 'have all of',
    any: 'have any of',
    adj: 'have, side by side',
    '==': 'be exactly',
    '<>': 'be other than',
  },
  dates: {
    '=': 'be on or in',
    '<': 'be before',
    '<=': 'be until',
    '>': 'be after',
    '>=': 'be from',
    within: 'be between',
    '<>': 'be other than',
  },
  sizes: {
    '=': 'be',
    '<': 'be smaller than',
    '<=': 'be at most',
    '>': 'be larger than',
    '>=': 'be at least',
    within: 'be between',
    '<>': 'be other than',
  },
  names: { '=': 'be', any: 'be one of', '==': 'be exactly', '<>': 'be other than' },
}
/** A relation of the query language, as what follows “must” or “must not”. */
export const relationWords = (relation: string, kind: string) =>
  relations[kind === 'kinds' ? 'names' : kind]?.[relation] ?? relation

export const confidenceWords: Record<Schemas['Confidence'], string> = {
  possible: 'possible',
  likely: 'likely',
  certain: 'certain',
}

/** How much of an item's content a search of words can find. */
export const searchableWords: Record<string, string> = {
  whole: 'All words',
  part: 'Not all words',
  password: 'Password-protected',
  scan: 'Scan without text',
  none: 'No text read',
}

/** Bands of sizes, as the server numbers them. */
export const sizeWords = [
  'below 10 kB',
  '10 kB to 100 kB',
  '100 kB to 1 MB',
  '1 MB to 10 MB',
  '10 MB to 100 MB',
  '100 MB to 1 GB',
  '1 GB and more',
]
