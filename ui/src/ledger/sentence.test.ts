import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { detailsOf, linkOf, runsOf, sentence, severityOf } from './sentence'

const entry = (over: Partial<Schemas['LedgerView']>): Schemas['LedgerView'] => ({
  sequence: 1,
  at: '2026-06-15T08:00:00Z',
  who: 'Ines Calloway',
  onBehalfOf: null,
  address: null,
  verb: 'destroyed',
  subjectKind: 'item',
  subjectId: '7',
  before: null,
  after: null,
  reason: null,
  hash: '',
  ...over,
})

describe('An entry of the ledger', () => {
  it('names its subject where it knows the name', () =>
    expect(sentence(entry({ verb: 'put-into-effect', subjectKind: 'series', after: { code: 'SAF-010' } }))).toBe(
      'put into effect series “SAF-010”',
    ))
  it('names its subject by its number otherwise', () => expect(sentence(entry({}))).toBe('destroyed item 7'))
  it('of a run says how many', () => expect(sentence(entry({}), 49)).toBe('destroyed 49 items'))
  it('says what else it holds, and what it was before', () =>
    expect(detailsOf(entry({ after: { items: 1490, active: true, days: 5 }, before: { days: 3 } }))).toBe(
      '1,490 items, active yes, days 3 → 5',
    ))
  it('leads to what it is about', () => expect(linkOf(entry({}))).toBe('/content?item=7'))
  it('about something without a page leads nowhere', () =>
    expect(linkOf(entry({ subjectKind: 'networks' }))).toBeNull())
  it('of an answered alert says how', () =>
    expect(sentence(entry({ verb: 'answered', subjectKind: 'alert', after: { state: 'Expected' } }))).toBe(
      'answered alert 7: expected',
    ))
  it('of a raised alert names its watch', () =>
    expect(sentence(entry({ verb: 'raised', subjectKind: 'alert', after: { watch: 'Deletions' } }))).toBe(
      'raised alert 7 of the watch “Deletions”',
    ))
  it('of an audit names the request', () =>
    expect(sentence(entry({ verb: 'offered', subjectKind: 'audit', after: { request: 2, proofs: 5 } }))).toBe(
      'offered proofs for request 2 of audit 7',
    ))
  it('of several requests says how many', () =>
    expect(sentence(entry({ verb: 'asked', subjectKind: 'audit', after: { request: 2 } }), 13)).toBe(
      'asked for 13 requests of audits',
    ))
  it('of a watch leads to it', () => expect(linkOf(entry({ subjectKind: 'watch' }))).toBe('/activity/watches?watch=7'))
  it('of an attached investigation says to what', () =>
    expect(
      sentence(
        entry({ verb: 'investigation-attached', subjectKind: 'alert', after: { name: 'Pier 4', investigation: 2 } }),
      ),
    ).toBe('attached the investigation “Pier 4” to alert 7'))
  it('of readers of proofs says who they are', () =>
    expect(
      sentence(
        entry({ verb: 'proof-readers-changed', subjectKind: 'control', after: { part: 'Payroll', seenBy: 'Steward' } }),
      ),
    ).toBe('showed the proofs of “Payroll” of control 7 to: Steward'))
  it('of an explained code names the code', () =>
    expect(sentence(entry({ verb: 'code-explained', subjectKind: 'sign-in-code', subjectId: '50126' }))).toBe(
      'explained the code 50126 of failed sign-ins',
    ))
  it('of one-time codes turned off is weighty', () =>
    expect(severityOf('one-time-codes-turned-off').word).toBe('weighty'))
  it('of one-time codes turned off says whose they were', () =>
    expect(
      sentence(entry({ verb: 'one-time-codes-turned-off', subjectKind: 'person', after: { name: 'Pia Lind' } })),
    ).toBe('turned the one-time codes of person “Pia Lind” off'))
  it('of a reset password is weighty', () => expect(severityOf('password-reset').word).toBe('weighty'))
  it('of a subject passed over says which and where', () =>
    expect(sentence(entry({ verb: 'excluded', subjectKind: 'gauge', after: { subject: 'Emergency account' } }))).toBe(
      'passed Emergency account over in gauge 7',
    ))
  it('of a destruction is weighty', () => expect(severityOf('destroyed').word).toBe('weighty'))
})

describe('Like entries one after the other', () => {
  it('are taken together', () =>
    expect(
      runsOf([entry({}), entry({ sequence: 2 }), entry({ sequence: 3, verb: 'filed' })]).map((r) => r.times),
    ).toEqual([2, 1]))
  it('with reasons of their own stay apart', () =>
    expect(runsOf([entry({ reason: 'a' }), entry({ reason: 'b' })]).map((r) => r.times)).toEqual([1, 1]))
})
