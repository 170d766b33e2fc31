import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'
import { verbWords } from '@/shared/words'

type Entry = Schemas['LedgerView']

const kinds: Record<string, [one: string, many: string]> = {
  item: ['item', 'items'],
  series: ['series', 'series'],
  batch: ['batch', 'batches'],
  matter: ['matter', 'matters'],
  person: ['person', 'people'],
  copy: ['copy in safekeeping', 'copies in safekeeping'],
  channel: ['channel', 'channels'],
  investigation: ['investigation', 'investigations'],
  statement: ['statement', 'statements'],
  source: ['source', 'sources'],
  unit: ['unit', 'units'],
  'trigger-event': ['trigger event', 'trigger events'],
  'trigger-event-type': ['kind of trigger event', 'kinds of trigger events'],
  'sensitive-kind': ['sensitive kind', 'sensitive kinds'],
  watch: ['watch', 'watches'],
  alert: ['alert', 'alerts'],
  review: ['access review', 'access reviews'],
  framework: ['framework', 'frameworks'],
  control: ['control', 'controls'],
  gauge: ['gauge', 'gauges'],
  audit: ['audit', 'audits'],
  policy: ['policy', 'policies'],
  risk: ['risk', 'risks'],
  supplier: ['supplier', 'suppliers'],
  connection: ['connection', 'connections'],
  incident: ['incident', 'incidents'],
  assurance: ['assurance page', 'assurance pages'],
  'assurance-document': ['document for the asking', 'documents for the asking'],
  proposal: ['proposal', 'proposals'],
  certificate: ['certificate', 'certificates'],
  'api-key': ['key', 'keys'],
  'sign-in-code': ['code of a failed sign-in', 'codes of failed sign-ins'],
  measure: ['measure', 'measures'],
}
const kindOf = (kind: string, many = false) => kinds[kind]?.[many ? 1 : 0] ?? verbWords(kind)

/** Where the thing that an entry is about can be opened; null where it has no page. */
export function linkOf(e: Pick<Entry, 'subjectKind' | 'subjectId'>): string | null {
  const id = encodeURIComponent(e.subjectId)
  const pages: Record<string, string> = {
    item: `/content?item=${id}`,
    series: `/schedule/${id}`,
    batch: `/schedule/docket?batch=${id}`,
    certificate: `/schedule/certificates?certificate=${id}`,
    matter: `/matters/${id}`,
    channel: '/set-up/channels',
    investigation: '/activity/thread',
    source: '/set-up/sources',
    person: '/set-up/people',
    organisation: '/set-up/organisation',
    unit: '/set-up/people',
    watch: `/activity/watches?watch=${id}`,
    alert: `/activity/alerts?alert=${id}`,
    review: `/access/reviews?review=${id}`,
    framework: '/readiness',
    control: `/readiness/controls?control=${id}`,
    gauge: `/readiness/gauges?gauge=${id}`,
    audit: `/readiness/audits?audit=${id}`,
    policy: `/readiness/policies?policy=${id}`,
    connection: `/readiness/connections?connection=${id}`,
    risk: '/readiness/areas?kind=risk',
    supplier: '/readiness/areas?kind=supplier',
    incident: '/readiness/areas?kind=incident',
    assurance: '/readiness/assurance',
    'assurance-document': '/readiness/assurance',
  }
  return pages[e.subjectKind] ?? null
}

const named = (value: unknown) => {
  const v = (value ?? {}) as Record<string, unknown>
  const name = v.name ?? v.title ?? v.code ?? v.path
  return typeof name === 'string' && name ? name : null
}

/** What an entry is about, by its name where the entry has one. */
export function subjectOf(e: Entry): string {
  const name = named(e.after) ?? named(e.before)
  if (e.subjectKind === 'organisation') return 'the organisation'
  return name ? `${kindOf(e.subjectKind)} “${name}”` : `${kindOf(e.subjectKind)} ${e.subjectId}`
}

/** The rest of what an entry holds, in the order of its fields: `49 items, series SAF-010`. */
export function detailsOf(e: Entry): string {
  const after = (e.after ?? {}) as Record<string, unknown>
  const before = (e.before ?? {}) as Record<string, unknown>
  const words = (key: string) => key.replace(/([A-Z])/g, ' $1').toLowerCase()
  return Object.entries(after)
    .filter(
      ([k, v]) => !['name', 'title', 'code', 'path'].includes(k) && v !== null && v !== '' && typeof v !== 'object',
    )
    .map(([k, v]) => {
      const former = before[k]
      const now = typeof v === 'number' ? count(v) : v === true ? 'yes' : v === false ? 'no' : String(v)
      if (former !== undefined && former !== null && typeof former !== 'object' && former !== v)
        return `${words(k)} ${former} → ${now}`
      return typeof v === 'number' ? `${now} ${words(k)}` : `${words(k)} ${now}`
    })
    .join(', ')
}

/** Where the verb alone would not make a sentence. */
const phrases: Record<string, (e: Entry, times: number) => string> = {
  'signed-in': (_, n) => (n > 1 ? `signed in ${count(n)} times` : 'signed in'),
  'signed-out': (_, n) => (n > 1 ? `signed out ${count(n)} times` : 'signed out'),
  'segment-sealed': (e, n) =>
    n > 1
      ? `sealed ${count(n)} days of events`
      : `sealed the events of ${field(e.after, 'channel')}, ${field(e.after, 'day')}`,
  'segment-removed': (e, n) =>
    n > 1
      ? `removed ${count(n)} days of events`
      : `removed the events of ${field(e.before, 'channel')}, ${field(e.before, 'day')}`,
  pinned: (e, n) => `pinned ${n > 1 ? `${count(n)} events` : 'an event'} to ${subjectOf(e)}`,
  unpinned: (e, n) => `took ${n > 1 ? `${count(n)} events` : 'an event'} out of ${subjectOf(e)}`,
  'ledger-verified': () => 'verified the ledger',
  'encryption-begun': () => 'had the archive and safekeeping encrypted',
  'encryption-keys-rotated': () => 'rotated the keys of encryption',
  'owners-may-review': (e) =>
    field(e.after, 'may') === 'true'
      ? 'let owners start reviews of what they own'
      : 'let owners start no more reviews of what they own',
  'reviewers-changed': (e) => `gave ${field(e.after, 'lines')} open lines of ${subjectOf(e)} to other reviewers`,
  'investigation-attached': (e) =>
    `attached the investigation “${field(e.after, 'name')}” to ${kindOf(e.subjectKind)} ${e.subjectId}`,
  'proof-readers-changed': (e) =>
    `showed the proofs of “${field(e.after, 'part')}” of ${kindOf(e.subjectKind)} ${e.subjectId} to: ${field(e.after, 'seenBy')}`,
  'code-explained': (e) => `explained the code ${e.subjectId} of failed sign-ins`,
  'explanation-removed': (e) => `took back the explanation of the code ${e.subjectId} of failed sign-ins`,
  'networks-named': () => 'named the networks',
  'places-loaded': () => 'loaded the table of places',
  'back-filled': (e) => `handed “${field(e.after, 'file')}” over to ${subjectOf(e)}`,
  'key-made': (e) => `made a key for ${subjectOf(e)}`,
  raised: (e, n) =>
    n > 1 ? `raised ${count(n)} alerts` : `raised ${subjectOf(e)} of the watch “${field(e.after, 'watch')}”`,
  answered: (e, n) =>
    n > 1
      ? `answered ${count(n)} ${kindOf(e.subjectKind, true)}`
      : `answered ${subjectOf(e)}: ${states[field(e.after, 'state')] ?? field(e.after, 'state')}`,
  'taken-over': (e, n) => (n > 1 ? `took ${count(n)} alerts over` : `took ${subjectOf(e)} over`),
  'found-useful': (e) => `found ${subjectOf(e)} useful`,
  'found-noise': (e) => `found ${subjectOf(e)} to be noise`,
  'weights-reset': () => 'reset the weights of the risk factors',
  'severity-set': (e) => `set the severity of ${e.subjectId} to ${field(e.after, 'severity').toLowerCase()}`,
  'switched-on': (e) => `switched ${subjectOf(e)} on`,
  'switched-off': (e) => `switched ${subjectOf(e)} off`,
  'toxic-pairs-set': () => 'set the toxic pairs',
  'not-applicable-asked': (e) => `asked that ${subjectOf(e)} does not apply`,
  'not-applicable-approved': (e) => `agreed that ${subjectOf(e)} does not apply`,
  'applicable-again': (e) => `made ${subjectOf(e)} apply again`,
  excluded: (e) => `passed ${field(e.after, 'subject')} over in ${subjectOf(e)}`,
  included: (e) => `counted ${field(e.before, 'subject')} again in ${subjectOf(e)}`,
  looked: (e, n) =>
    n > 1 ? `looked ${count(n)} times into audits` : `looked at ${field(e.after, 'at')} in ${subjectOf(e)}`,
  offered: (e, n) => `offered proofs for ${inAudit(e, n)}`,
  ready: (e, n) => `called ${inAudit(e, n)} ready for review`,
  accepted: (e, n) => `accepted ${inAudit(e, n)}`,
  returned: (e, n) => `returned ${inAudit(e, n)}`,
  remarked: (e, n) => `remarked on ${inAudit(e, n)}`,
  published: (e) => (e.subjectKind === 'assurance' ? 'published the assurance page' : `published ${subjectOf(e)}`),
  'password-reset': (e) => `reset the password of ${subjectOf(e)}`,
  'password-refused': () => 'typed a wrong current password',
  'sign-in-refused': (_, n) => (n > 1 ? `was not let in ${count(n)} times` : 'was not let in'),
  'one-time-codes-refused': () => 'typed a wrong current password',
  'one-time-codes-begun': () => 'asked for the key of an authenticator app',
  'one-time-codes-turned-on': () => 'turned their one-time codes on',
  'one-time-codes-turned-off': (e) => `turned the one-time codes of ${subjectOf(e)} off`,
  'recovery-codes-renewed': () => 'renewed their recovery codes',
  'recovery-code-used': () => 'signed in with a recovery code',
  'kept-by-its-floor': (e, n) =>
    n > 1
      ? `kept ${count(n)} items for longer than their rules say`
      : `kept ${subjectOf(e)} until ${field(e.after, 'keptUntil')}, where its rules say ${field(e.before, 'rulesSay') || 'nothing'}`,
  settled: (e, n) =>
    `settled ${n > 1 ? `${count(n)} items that were to be mended` : `what was to be mended of ${subjectOf(e)}`}`,
  'sessions-ended': (e) => `signed ${subjectOf(e)} out of ${count(Number(field(e.after, 'sessions')))} browsers`,
}
const inAudit = (e: Entry, times: number) =>
  times > 1 ? `${count(times)} requests of audits` : `request ${field(e.after, 'request')} of ${subjectOf(e)}`
const states: Record<string, string> = {
  New: 'new again',
  LookedAt: 'being looked at',
  Expected: 'expected',
  Confirmed: 'confirmed',
}
const field = (value: unknown, name: string) => String(((value ?? {}) as Record<string, unknown>)[name] ?? '')

/** One sentence: what was done to what, and of which kind of many where several are taken together. */
export const sentence = (e: Entry, times = 1) =>
  (e.verb === 'asked' && e.subjectKind === 'audit' ? `asked for ${inAudit(e, times)}` : undefined) ??
  phrases[e.verb]?.(e, times) ??
  (times > 1
    ? `${verbWords(e.verb)} ${count(times)} ${kindOf(e.subjectKind, true)}`
    : `${verbWords(e.verb)} ${subjectOf(e)}`)

const weighty = new Set([
  'destroyed',
  'handed-over',
  'destruction-failed',
  'copy-broken',
  'released',
  'person-added',
  'person-changed',
  'worm-enabled',
  'segment-removed',
  'unmasked',
  'series-dropped',
  'deletion-asked',
  'password-reset',
  'one-time-codes-turned-off',
  'switched-off',
  'not-applicable-approved',
])
const notable = new Set([
  'put-into-effect',
  'signed-off',
  'changed',
  'retired',
  'order-in-force',
  'order-applied',
  'member-added',
  'key-made',
  'connected',
  'networks-named',
  'batch-withdrawn',
  'raised',
  'answered',
  'switched-on',
  'excluded',
  'recovery-code-used',
  'one-time-codes-turned-on',
  'weights-reset',
  'severity-set',
  'toxic-pairs-set',
])
/** How much an entry weighs: a shape and a word, never colour alone. */
export const severityOf = (verb: string): { mark: string; word: string } =>
  weighty.has(verb)
    ? { mark: '▲', word: 'weighty' }
    : notable.has(verb)
      ? { mark: '◆', word: 'notable' }
      : { mark: '·', word: 'usual' }

/** Runs of like entries, one after the other by the same person on things of one kind, taken together. */
export function runsOf<E extends Entry>(entries: readonly E[]): (E & { times: number })[] {
  const runs: (E & { times: number })[] = []
  for (const e of entries) {
    const last = runs.at(-1)
    if (
      last &&
      last.who === e.who &&
      last.verb === e.verb &&
      last.subjectKind === e.subjectKind &&
      !e.reason &&
      !last.reason
    )
      last.times++
    else runs.push({ ...e, times: 1 })
  }
  return runs
}
