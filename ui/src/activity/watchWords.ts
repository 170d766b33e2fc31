import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

export type Rule = Schemas['WatchRule']
export type Settings = Schemas['WatchSettings']

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

export type Kind = Schemas['WatchKindView']
export type Part = Schemas['WatchPart']

/** The kind of a rule; undefined while the kinds are not known. */
export const kindOf = (kinds: Kind[] | undefined, rule: Rule) =>
  kinds?.find((k) => k.kind === rule.kind && k.usual === (rule.usual ?? false))

/** What a part of a rule is, or what holds where the rule does not say. */
export const valueOf = (part: Part, rule: Rule) =>
  (rule as Record<string, unknown>)[part.name] ?? part.otherwise ?? null

/** A part of a rule as its sentence says it. */
export function partWords(part: Part, rule: Rule): string {
  const value = valueOf(part, rule)
  if (part.editor === 'length') return lengthWords(value as string | null)
  if (part.editor === 'choice') return part.choices?.find((c) => c.value === value)?.words ?? String(value ?? '…')
  if (part.editor === 'number') return (part.words ?? '#').replace('#', count(Number(value ?? 0)))
  return String(value || '…')
}

/** The sentence of a kind, text and parts in turn. */
export const piecesOf = (kind: Kind): (string | Part)[] =>
  kind.sentence
    .split(/\{(\w+)\}/)
    .flatMap((piece, i) => (i % 2 ? (kind.parts.find((p) => p.name === piece) ?? []) : piece))

/** A rule of another kind, with the events that it counts kept. */
export const ofKind = (rule: Rule, kind: Kind): Rule => ({
  kind: kind.kind,
  ...(kind.usual ? { usual: true } : {}),
  where: rule.where,
  except: rule.except,
  ...Object.fromEntries(kind.parts.map((p) => [p.name, p.beginning])),
})

/** The rule as one sentence, for lists. */
export function ruleSentence(kinds: Kind[] | undefined, rule: Rule): string {
  const kind = kindOf(kinds, rule)
  if (!kind) return ''
  const said = piecesOf(kind)
    .map((p) => (typeof p === 'string' ? p : partWords(p, rule)))
    .join('')
  const where = rule.where ? ` where ${rule.where}` : ''
  const except = rule.except ? `, except ${rule.except}` : ''
  return `${said.charAt(0).toUpperCase()}${said.slice(1)}${where}${except}`
}
