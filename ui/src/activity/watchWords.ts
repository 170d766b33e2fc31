import type { Schemas } from '@/shared/api/client'

export type Rule = Schemas['WatchRule']
export type Settings = Schemas['WatchSettings']

export const kindWords: Record<string, string> = {
  each: 'something happens at all',
  count: 'there is much of it in a short time',
  first: 'something is seen for the first time',
  unusual: 'somebody does far more than is usual for them',
  journey: 'somebody is in two places too soon',
  silence: 'nothing arrives',
  sequence: 'one thing follows another',
}

export const perWords: Record<string, string> = {
  actor: 'one person',
  address: 'one address',
  network: 'one network',
  object: 'one object',
  application: 'one application',
  channel: 'one channel',
  none: 'all together',
}

export const severityWords: Record<Schemas['AlertSeverity'], string> = { low: 'low', medium: 'medium', high: 'high' }
export const severityMarks: Record<Schemas['AlertSeverity'], string> = { low: '▽', medium: '◆', high: '▲' }

export const stateWords: Record<Schemas['AlertState'], string> = {
  new: 'new',
  lookedAt: 'looked at',
  expected: 'expected',
  confirmed: 'confirmed',
}

export const actWords: Record<string, string> = {
  '': 'do nothing by itself',
  suspend: 'suspend the account',
  'sign-out': 'sign the account out everywhere',
  'remove-link': 'remove the links to the object',
  'remove-member': 'remove the account from the group',
  'revoke-consent': 'revoke the application’s consent',
}

const units: [string, RegExp, string][] = [
  ['week', /^P(\d+)W$/, 'weeks'],
  ['day', /^P(\d+)D$/, 'days'],
  ['hour', /^PT(\d+)H$/, 'hours'],
  ['minute', /^PT(\d+)M$/, 'minutes'],
  ['second', /^PT(\d+)S$/, 'seconds'],
]

/** A length of time in words; as it stands where it joins several units. */
export function lengthWords(iso: string | null | undefined): string {
  for (const [one, shape, many] of units) {
    const n = shape.exec(iso ?? '')?.[1]
    if (n) return n === '1' ? `1 ${one}` : `${n} ${many}`
  }
  return iso || '…'
}

const plurals: Record<string, string> = {
  actor: 'people',
  address: 'addresses',
  network: 'networks',
  object: 'objects',
  target: 'recipients',
  application: 'applications',
  device: 'devices',
}

export function measureWords(of: string | null | undefined): string {
  if (!of || of === 'events') return 'events'
  if (of === 'sum:amount') return 'in amount'
  const field = of.slice('distinct:'.length)
  return `different ${plurals[field] ?? `values of ${field}`}`
}

/** What a kind begins with when nothing else is known. */
export const beginnings: Record<string, Partial<Rule>> = {
  each: {},
  count: { per: 'actor', of: 'events', threshold: 10, within: 'PT1H' },
  first: { dimension: 'country', scope: 'actor', learn: 'P14D' },
  unusual: { per: 'actor', of: 'events', sensitivity: 'medium', least: 5 },
  journey: { maxKmh: 900, minKm: 500 },
  silence: { for: 'PT6H' },
  sequence: { first: 'action = log.stop', then: 'action = file.delete', per: 'actor', within: 'PT1H' },
}

/** A rule of another kind, with the events that it counts kept. */
export const ofKind = (rule: Rule, kind: string): Rule => ({
  kind,
  where: rule.where,
  except: rule.except,
  ...beginnings[kind],
})

const article = (word?: string | null) => (/^[aeiou]/.test(word ?? '') ? 'An' : 'A')

const scopeWords: Record<string, string> = {
  actor: 'the person',
  peers: 'their peers',
  organisation: 'the organisation',
}

/** The rule as one sentence, for lists. */
export function ruleSentence(rule: Rule): string {
  const where = rule.where ? ` where ${rule.where}` : ''
  const except = rule.except ? `, except ${rule.except}` : ''
  const per = perWords[rule.per ?? 'none'] ?? rule.per
  switch (rule.kind) {
    case 'each':
      return `Each event${where}${except}`
    case 'count':
      return `${rule.threshold} or more ${measureWords(rule.of)} within ${lengthWords(rule.within)} by ${per}${where}${except}`
    case 'first':
      return (
        `${article(rule.dimension)} ${rule.dimension} never seen before for ` +
        `${scopeWords[rule.scope ?? 'organisation']}${where}${except}`
      )
    case 'unusual':
      return `Far more ${measureWords(rule.of)} in an hour than is usual for ${per}${where}${except}`
    case 'journey':
      return `Two sign-ins farther apart than ${rule.maxKmh} km/h allow${where}${except}`
    case 'silence':
      return `No event for ${lengthWords(rule.for)}${where}${except}`
    case 'sequence':
      return `${rule.first}, then ${rule.then} within ${lengthWords(rule.within)}, by ${per}${except}`
    default:
      return rule.kind
  }
}
