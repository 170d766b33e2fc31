import type { Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import { verbWords } from '@/shared/words'

export const kindWords: Record<Schemas['MatterKind'], string> = {
  litigation: 'litigation',
  investigation: 'investigation',
  regulator: 'regulator’s request',
  accessRequest: 'access request',
}
export const matterStateWords: Record<Schemas['MatterState'], string> = {
  open: 'open',
  closing: 'closing',
  closed: 'closed',
  deleted: 'deleted',
}
export const partWords: Record<Schemas['MemberPart'], string> = { reader: 'reader', reviewer: 'reviewer', lead: 'lead' }
export const orderStateWords: Record<Schemas['OrderState'], string> = {
  draft: 'not in force',
  inForce: 'in force',
  released: 'released',
}

/** `1 Feb – 30 Jun 2026`; a year that both days share is told once. */
export function rangeWords(from: string | null, to: string | null): string {
  if (!from && !to) return 'any time'
  if (!to) return `since ${day(from)}`
  if (!from) return `until ${day(to)}`
  const first = day(from)
  return `${from.slice(0, 4) === to.slice(0, 4) ? first.slice(0, -5) : first} – ${day(to)}`
}

/** `these 4 custodians and Harbour office share`. */
export function reachWords(
  definition: Schemas['HoldDefinition'],
  containerName: (id: number) => string,
  custodianName: (id: number) => string,
): string {
  const parts: string[] = []
  const people = definition.custodians
  if (people.length === 1) parts.push(custodianName(people[0]!))
  else if (people.length > 1) parts.push(`these ${people.length} custodians`)
  const places = definition.containers
  if (places.length > 0 && places.length < 3) parts.push(...places.map(containerName))
  else if (places.length > 2) parts.push(`these ${places.length} containers`)
  const everywhere =
    parts.length === 0
      ? 'the whole unit'
      : parts.length === 1
        ? parts[0]!
        : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`
  if (definition.channels?.length && parts.length === 0 && !definition.items && !definition.query)
    return `the events of ${definition.channels.join(', ')}`
  const among = definition.items ? `${plural(definition.items.length, 'listed item')} of ${everywhere}` : everywhere
  return definition.channels?.length ? `${among}, and the events of ${definition.channels.join(', ')},` : among
}

type Told = Record<string, unknown>
const said: Record<string, (after: Told, before: Told) => string> = {
  'matter-opened': (a) => `opened as ${a['number']}`,
  'matter-open': () => 'opened again',
  'matter-closing': () => 'closing begun',
  'matter-closed': () => 'closed',
  'deletion-asked': () => 'deletion asked for',
  'matter-deleted': (a) => `deleted, as ${a['askedBy']} asked`,
  'matter-content-removed': () => 'its content removed',
  changed: () => 'description or settings changed',
  joined: () => 'joined as lead',
  'member-added': (a) => `${a['member']} let in as ${String(a['part']).toLowerCase()}`,
  'member-changed': (a) => `${a['member']} made ${String(a['part']).toLowerCase()}`,
  'member-removed': (_, b) => `${b['member']} left`,
  'custodian-place-found': (a) => `found ${a['place']}, which carries the name of ${a['person']}`,
  'custodian-place-taken': (a) => `${a['place']} is ${a['person']}’s`,
  'custodian-place-left': (a) => `${a['place']} is not ${a['person']}’s`,
  'custodian-added': (a) => `custodian ${a['person']} added`,
  'custodian-changed': (_, b) => `places of ${b['person']} changed`,
  'custodian-removed': (_, b) => `custodian ${b['person']} removed`,
  'tag-made': (a) => `tag “${a['tag']}” made`,
  'tag-changed': (a, b) =>
    a['tag'] === b['tag']
      ? `tag “${a['tag']}” ${a['withholds'] ? 'withholds' : 'withholds no more'}`
      : `tag “${b['tag']}” called “${a['tag']}”`,
  'tag-removed': (_, b) => `tag “${b['tag']}” removed`,
  coded: (a) => `${plural(Number(a['items']), 'item')} coded “${a['tag']}”`,
  'code-removed': (a) => `“${a['tag']}” taken off ${plural(Number(a['items']), 'item')}`,
  'notice-issued': (a) =>
    `${a['kind'] === 'Release' ? 'release notice' : 'notice'}, version ${a['version']}, ` +
    `sent to ${plural((a['custodians'] as unknown[]).length, 'custodian')}`,
  'notice-opened': (a) => `notice, version ${a['version']}, opened`,
  'notice-acknowledged': (a) => `notice, version ${a['version']}, acknowledged`,
  'notice-reminded': (a) => `${a['custodian']} reminded of version ${a['version']}`,
  'notice-escalated': (a) =>
    a['manager']
      ? `${a['manager']} notified that ${a['custodian']} has not answered`
      : `${a['custodian']} has not answered`,
  'sweep-added': (a) => `sweep “${a['name']}” written`,
  'sweep-changed': (a) => `sweep “${a['name']}” changed`,
  'sweep-removed': (_, b) => `sweep “${b['name']}” removed`,
  'sweep-run': (a) => `sweep “${a['sweep']}” run: ${plural(a['items'] as number, 'item')}`,
  'order-drafted': (a) => `order “${a['name']}” drafted`,
  'order-draft-dropped': (_, b) => (b['name'] ? `draft of order “${b['name']}” dropped` : 'draft dropped'),
  'order-in-force': (a) => `order “${a['name']}” put in force`,
  'order-applied': (a) => `order ${a['order']} applied: ${plural(a['items'] as number, 'item')} held`,
  'copied-to-safekeeping': (a) => `${plural((a['items'] as unknown[]).length, 'item')} copied to safekeeping`,
  pinned: (a) => `${plural((a['items'] as unknown[]).length, 'item')} pinned to order ${a['order']}`,
  'release-asked': (a) => `release of ${plural(a['items'] as number, 'item')} from order ${a['order']} asked for`,
  'held-items-changed': (a) => `${plural(a['items'] as number, 'held item')} changed: ${a['first']}`,
  'container-stays': (a) => `“${a['container']}” was given to another unit; the orders in force still reach it`,
  'release-declined': (a) => `release from order ${a['order']} declined, which ${a['askedBy']} had asked for`,
  'refused-release': () => 'own release agreed to, which was refused',
  released: (a) => `${plural(a['items'] as number, 'item')} released from order ${a['order']}`,
  'release-undone': (a) => `release undone: order ${a['order']} holds ${plural(a['items'] as number, 'item')} again`,
  'bundle-asked': (a) => `bundle “${a['name']}” asked for: ${plural(a['items'] as number, 'item')}`,
  'bundle-made': (a) => `bundle “${a['name']}” made: ${count(a['documents'] as number)} documents`,
  'bundle-taken': (a) => `bundle “${a['bundle']}” taken`,
  'bundle-removed': (_, b) => `bundle “${b['name']}” removed`,
}
/** What an entry of a matter's ledger says happened, with whom and how many it was about. */
export const happened = (entry: Pick<Schemas['LedgerView'], 'verb' | 'before' | 'after'>) =>
  said[entry.verb]?.((entry.after ?? {}) as Told, (entry.before ?? {}) as Told) ?? verbWords(entry.verb)
