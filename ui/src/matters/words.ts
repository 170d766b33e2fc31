import type { Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'

export const kindWords: Record<Schemas['MatterKind'], string> = { litigation: 'litigation', investigation: 'investigation', regulator: 'regulator’s request', accessRequest: 'access request' }
export const matterStateWords: Record<Schemas['MatterState'], string> = { open: 'open', closing: 'closing', closed: 'closed', deleted: 'deleted' }
export const partWords: Record<Schemas['MemberPart'], string> = { reader: 'reader', reviewer: 'reviewer', lead: 'lead' }
export const orderStateWords: Record<Schemas['OrderState'], string> = { draft: 'not in force', inForce: 'in force', released: 'released' }

/** `1 Feb – 30 Jun 2026`; a year that both days share is told once. */
export function rangeWords(from: string | null, to: string | null): string {
  if (!from && !to) return 'any time'
  if (!to) return `since ${day(from)}`
  if (!from) return `until ${day(to)}`
  const first = day(from)
  return `${from.slice(0, 4) === to.slice(0, 4) ? first.slice(0, -5) : first} – ${day(to)}`
}

/** `these 4 custodians and Harbour office share`. */
export function reachWords(definition: Schemas['HoldDefinition'], containerName: (id: number) => string, custodianName: (id: number) => string): string {
  const parts: string[] = []
  const people = definition.custodians
  if (people.length === 1) parts.push(custodianName(people[0]!))
  else if (people.length > 1) parts.push(`these ${people.length} custodians`)
  const places = definition.containers
  if (places.length > 0 && places.length < 3) parts.push(...places.map(containerName))
  else if (places.length > 2) parts.push(`these ${places.length} containers`)
  return parts.length === 0 ? 'the whole unit' : parts.length === 1 ? parts[0]! : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`
}
