import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import {
  answers,
  consequences,
  tally,
  button,
  calls,
  place,
  press,
  signedIn,
  standIn,
  tidyUp,
  type,
  typedAt,
} from '@/shared/testing'
import WhyDialog from '@/shared/WhyDialog.vue'
import ProposalLine from './ProposalLine.vue'
import AuthoritiesPlace from './AuthoritiesPlace.vue'
import BlanketsPlace from './BlanketsPlace.vue'
import DraftsPlace from './DraftsPlace.vue'
import EventsPlace from './EventsPlace.vue'
import { foundBy, precisionWords } from './filing'
import FilingRulePane from './FilingRulePane.vue'
import HealthPlace from './HealthPlace.vue'
import RetireSeries from './RetireSeries.vue'
import SpreadsheetPlace from './SpreadsheetPlace.vue'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('readSchedule', 'writeSchedule', 'writeTriggerEvents', 'readContent')
  sessionStorage.clear()
})

const item = (id: number, title: string): Schemas['ItemRow'] => ({
  id,
  title,
  path: `c/${title}`,
  containerId: 1,
  container: 'Crew files',
  source: 'Share',
  unit: 'Crewing',
  type: 'md',
  bytes: 10,
  author: null,
  owner: null,
  created: '2020-01-01',
  modified: '2020-01-01',
  series: null,
  state: 'inTerm',
  missing: false,
  tideline: { start: '2020-01-01', cutoff: null, keepUntil: '2030-01-01', disposableFrom: null },
  found: null,
})
const page = (...items: Schemas['ItemRow'][]): Schemas['ItemPage'] => ({
  items,
  next: null,
  total: items.length,
  bytes: 0,
})
/** The figures are asked for a moment after the last letter. */
const settle = async () => {
  await new Promise((done) => setTimeout(done, 300))
  await flushPromises()
}

describe('the last step before something takes effect', () => {
  it('asks for a reason and, where it cannot be undone, for a word', async () => {
    const wrapper = await place(WhyDialog, { title: 'Destroy', says: 'Destroy 3 items now', word: 'destroy' })
    expect(button('Destroy 3 items now')!.disabled).toBe(true)
    await type('#why', 'Not needed.')
    expect(button('Destroy 3 items now')!.disabled).toBe(true)
    await type('#word', 'destroyed')
    expect(button('Destroy 3 items now')!.disabled).toBe(true)
    await type('#word', 'destroy')
    await press('Destroy 3 items now')
    expect(wrapper.emitted('go')).toEqual([['Not needed.']])
  })
})

describe('blankets', () => {
  const definition: Schemas['BlanketDefinition'] = {
    description: '',
    reach: { query: null, containers: [1], except: [] },
    from: 'modified',
    keep: 'P3Y',
    destroys: false,
    destroyAfter: null,
  }
  const blanket = (part: Partial<Schemas['BlanketView']> = {}): Schemas['BlanketView'] => ({
    id: 2,
    name: 'All mail',
    unitId: 1,
    unit: 'Fleet',
    state: 'draft',
    inForce: null,
    draft: definition,
    draftBy: 'Ines',
    draftAt: '2026-06-15T08:00:00Z',
    version: 0,
    rule: 'keep 3 years · modified',
    covered: [{ id: 1, name: 'Crew files' }],
    items: 64,
    bytes: 2048,
    due: 0,
    keptCopies: tally(0),
    mayWrite: true,
    revision: 4,
    ...part,
  })
  const told = () =>
    document.body
      .querySelector('.sentence')!
      .textContent!.replace(/\s+/g, ' ')
      .replace(/ ([.;,])/g, '$1')
      .trim()

  it('says in a sentence what it covers, and shows what it would do', async () => {
    answers['GET /api/blankets'] = [blanket()]
    answers['POST /api/blankets/{id}/consequences'] = {
      consequences: consequences({ newlyUnderRule: tally(40) }),
      covered: [{ id: 1, name: 'Crew files' }],
    }
    await place(BlanketsPlace, {}, '/schedule/blankets?blanket=2')
    await settle()
    expect(told()).toBe('Keep everything in 1 container for 3 years after it was last modified; then nothing happens.')
    expect(button('Put into effect')!.textContent).toContain('40 items covered, none due today')
  })
  it('is put into effect with the figures that were on screen and the revision that was read', async () => {
    answers['GET /api/blankets'] = [blanket()]
    answers['POST /api/blankets/{id}/consequences'] = {
      consequences: consequences({ becomeDue: tally(7) }),
      covered: [],
    }
    answers['POST /api/blankets/{id}/activation'] = blanket({ state: 'active' })
    await place(BlanketsPlace, {}, '/schedule/blankets?blanket=2')
    await settle()
    await press('7 become due today')
    await type('#why', 'The new schedule.')
    await press('7 become due today')
    expect(calls('POST /api/blankets/{id}/activation')).toEqual([
      expect.objectContaining({
        body: { fingerprint: 'seen', why: 'The new schedule.' },
        headers: { 'If-Match': '"4"' },
      }),
    ])
  })
  it('does not take effect by figures of what stood there before', async () => {
    answers['GET /api/blankets'] = [blanket()]
    answers['POST /api/blankets/{id}/consequences'] = { consequences: consequences(), covered: [] }
    const wrapper = await place(BlanketsPlace, {}, '/schedule/blankets?blanket=2')
    await settle()
    const may = () => !button('Put into effect')!.disabled
    const before = may()
    await wrapper.get('[data-part=kind]').trigger('click')
    await flushPromises()
    await press('Keep nothing, and destroy after a time')
    const meanwhile = may()
    await settle()
    expect([before, meanwhile, may()]).toEqual([true, false, true])
  })
  it('turns from keeping to destroying, and keeps what is written over a reload', async () => {
    answers['GET /api/blankets'] = [blanket()]
    answers['POST /api/blankets/{id}/consequences'] = { consequences: consequences(), covered: [] }
    const wrapper = await place(BlanketsPlace, {}, '/schedule/blankets?blanket=2')
    await wrapper.get('[data-part=kind]').trigger('click')
    await flushPromises()
    await press('Keep nothing, and destroy after a time')
    expect(told()).toBe('Destroy everything in 1 container, 3 years after it was last modified.')
    expect(typedAt('blanket.2')).toContain('"destroyAfter":"P3Y"')
  })
})

describe('drafts together', () => {
  it('names the number of drafts and of items on the one button, and sends what was seen', async () => {
    answers['GET /api/schedule/drafts'] = {
      drafts: [
        { kind: 'series', id: 3, code: 'FIN-040', title: 'Tenders', rule: '6 years', ruleNow: null, by: 'Ines' },
        { kind: 'blanket', id: 2, code: 'Blanket', title: 'Scratch', rule: 'destroy', ruleNow: 'keep', by: 'Ines' },
      ],
      consequences: consequences({ becomeDue: tally(59) }),
    }
    answers['POST /api/schedule/adoption'] = { ok: true }
    const wrapper = await place(DraftsPlace, {}, '/schedule/drafts')
    expect(wrapper.findAll('tbody a').map((a) => a.attributes('href'))).toEqual([
      '/schedule/3',
      '/schedule/blankets?blanket=2',
    ])
    await press('Put 2 drafts into effect — 59 become due today')
    await type('#why', 'June.')
    await press('Put 2 drafts into effect')
    expect(calls('POST /api/schedule/adoption')[0]!.body).toEqual({
      fingerprint: 'seen',
      why: 'June.',
      drafts: ['series-3', 'blanket-2'],
    })
  })
})

describe('authorities', () => {
  const authority = (
    code: string,
    verdict: Schemas['AuthorityVerdict'],
    sentence: string,
  ): Schemas['AuthorityView'] => ({
    id: 1,
    code,
    definition: {
      citation: code,
      issuer: '',
      jurisdiction: 'United States',
      subject: 'Payroll',
      join: 'later',
      least: [{ trigger: 'created', cutoff: 'none', period: 'P3Y' }],
      most: null,
      note: '',
      origin: 'the text',
    },
    demands: 'at least 3 years',
    series: [{ id: 5, code: 'PPL-020', title: 'Payroll', finding: { authority: code, verdict, sentence } }],
    revision: 1,
  })
  it('counts the series that are at odds, and tells of each why', async () => {
    answers['GET /api/authorities'] = [
      authority('29 CFR 516.5', 'short', 'short by 1 year'),
      authority('UK PAYE', 'meets', 'meets it'),
    ]
    const wrapper = await place(AuthoritiesPlace, {}, '/schedule/authorities?authority=29%20CFR%20516.5')
    expect(wrapper.findAll('tbody > tr').map((r) => r.text())[0]).toContain('1 of 1 series at odds')
    expect(wrapper.get('.detail').text()).toContain('short by 1 year')
  })
  it('finds by words', async () => {
    answers['GET /api/authorities'] = [
      authority('29 CFR 516.5', 'meets', 'meets it'),
      authority('UK PAYE', 'meets', 'meets it'),
    ]
    const wrapper = await place(AuthoritiesPlace, {}, '/schedule/authorities')
    await wrapper.get('input').setValue('paye')
    expect(wrapper.findAll('tbody > tr')).toHaveLength(1)
  })
})

describe('events', () => {
  const event = (part: Partial<Schemas['TriggerEventView']> = {}): Schemas['TriggerEventView'] => ({
    id: 9,
    type: 'vessel-sold',
    typeTitle: 'Vessel sold',
    subject: 'IMO1',
    date: '2024-03-29',
    note: '',
    reference: null,
    toldBy: 'Ines',
    toldAt: '2026-06-15T08:00:00Z',
    revokedBy: null,
    revokedAt: null,
    revokedWhy: null,
    counts: true,
    ...part,
  })
  beforeEach(() => {
    answers['GET /api/trigger-event-types'] = [
      {
        id: 1,
        name: 'vessel-sold',
        title: 'Vessel sold',
        description: '',
        series: ['VES-050'],
        events: 2,
        latest: '2024-03-29',
        revision: 1,
      },
    ]
    answers['GET /api/trigger-events'] = {
      events: [
        event(),
        event({ id: 8, date: '2020-01-01', counts: false }),
        event({ id: 7, revokedAt: '2026-06-15T08:00:00Z', revokedBy: 'Tobias', revokedWhy: 'wrong vessel' }),
      ],
      next: null,
      total: 3,
    }
    answers['GET /api/subjects/{subject}'] = { subject: 'IMO1', events: [], items: page(item(1, 'Deed of sale')) }
  })
  it('shows which event counts, which a later one outdid, and which was revoked', async () => {
    const wrapper = await place(EventsPlace, {}, '/schedule/events?subject=IMO1')
    const rows = wrapper.findAll('[aria-label=Events] tbody tr').map((r) => r.text())
    expect([
      rows[0]!.includes('a later one counts'),
      rows[1]!.includes('a later one counts'),
      rows[2]!.includes('revoked by Tobias: wrong vessel'),
    ]).toEqual([false, true, true])
    expect(wrapper.get('[aria-label="Items of the subject"]').text()).toContain('Deed of sale')
  })
  it('revokes with a reason', async () => {
    answers['POST /api/trigger-events/{id}/revocation'] = event()
    answers['POST /api/trigger-events/{id}/revocation/consequences'] = consequences({ later: tally(2) })
    const wrapper = await place(EventsPlace, {}, '/schedule/events')
    await wrapper.get('[aria-label="Revoke Vessel sold of IMO1"]').trigger('click')
    await flushPromises()
    await type('#why', 'Told twice.')
    await press('Revoke it')
    expect(calls('POST /api/trigger-events/{id}/revocation')[0]!.body).toEqual({
      why: 'Told twice.',
      fingerprint: 'seen',
    })
  })
  it('offers nothing to press to those who may not tell events', async () => {
    signedIn('readSchedule', 'writeSchedule', 'readContent')
    const wrapper = await place(EventsPlace, {}, '/schedule/events')
    expect([button('Report an event'), wrapper.find('[aria-label^=Revoke]').exists()]).toEqual([undefined, false])
  })
})

describe('filing rules', () => {
  const rule: Schemas['FilingRuleView'] = {
    id: 1,
    name: 'Passport copies',
    series: { id: 5, code: 'PPL-010', title: 'Crew files' },
    definition: { query: null, kinds: [{ kind: 'passport-mrz', least: 'likely', count: 2 }] },
    priority: 10,
    state: 'trial',
    by: 'Ines',
    at: '2026-06-15T08:00:00Z',
    matches: 16,
    filed: 0,
    precision: { right: 1, wrong: 1, share: 0.5, low: 0.0945, high: 0.9055 },
    mayWrite: true,
    revision: 3,
  }
  it('are told in words, with the interval of their precision', () => {
    expect(foundBy(rule.definition)).toBe('2 finds of passport-mrz, at least likely')
    expect(foundBy({ query: 'title = oil', kinds: [] })).toBe('title = oil')
    expect(precisionWords(rule.precision)).toBe('50 % of 2, truly 9 % to 91 %')
    expect(precisionWords({ right: 0, wrong: 0, share: null, low: null, high: null })).toBe('not judged yet')
  })
  it('are judged sample by sample; the same word again takes it back', async () => {
    answers['GET /api/filing-rules/{id}/samples'] = [{ item: item(1, 'Passport'), right: true, by: 'Ines' }]
    answers['PUT /api/filing-rules/{id}/samples/{item}'] = rule
    await place(FilingRulePane, { rule })
    await press('wrong')
    await press('right')
    expect(calls('PUT /api/filing-rules/{id}/samples/{item}').map((c) => c.body)).toEqual([
      { right: false },
      { right: null },
    ])
  })
  it('are put into force with the number of items on the button', async () => {
    answers['GET /api/filing-rules/{id}/samples'] = []
    answers['POST /api/filing-rules/{id}/consequences'] = consequences({ inReach: tally(16), becomeDue: tally(2) })
    answers['POST /api/filing-rules/{id}/activation'] = rule
    await place(FilingRulePane, { rule })
    await press('Put into force …')
    await type('#why', 'It works.')
    await press('file 16 items, 2 become due today')
    expect(calls('POST /api/filing-rules/{id}/activation')[0]).toMatchObject({
      body: { fingerprint: 'seen', why: 'It works.' },
      headers: { 'If-Match': '"3"' },
    })
  })
})

describe('the sheet that comes back', () => {
  async function bring(name: string) {
    const wrapper = await place(SpreadsheetPlace, {}, '/schedule/spreadsheet')
    const input = wrapper.get('input[type=file]').element as HTMLInputElement
    Object.defineProperty(input, 'files', { value: [new File(['code\n'], name)] })
    input.dispatchEvent(new Event('change'))
    await settle()
    return wrapper
  }
  const empty: Schemas['ScheduleReturn'] = {
    added: [],
    changed: [],
    unchanged: 0,
    refused: [],
    conflicts: [],
    consequences: null,
    applied: false,
  }
  it('shows each cell that differs before anything is written, and writes with the figures that were seen', async () => {
    answers['POST /api/schedule/return'] = {
      ...empty,
      changed: [{ line: 4, code: 'VES-010', changes: [{ column: 'title', before: 'Oil', after: 'Oil books' }] }],
      unchanged: 40,
      consequences: consequences(),
    }
    const wrapper = await bring('schedule.csv')
    expect(wrapper.get('.sum').text()).toBe('1 changed · 0 added · 40 unchanged')
    expect(wrapper.get('tbody tr').text()).toMatch(/4\s*VES-010\s*title\s*Oil\s*Oil books/)
    await press('Write 1 draft')
    expect(
      calls('POST /api/schedule/return').map((c) => (c.body as { fingerprint: string | null }).fingerprint),
    ).toEqual([null, 'seen'])
  })
  it('names refused lines and conflicts, and offers nothing to write', async () => {
    answers['POST /api/schedule/return'] = {
      ...empty,
      refused: [{ line: 2, column: 'clauses', why: 'No clause.' }],
      conflicts: [{ line: 3, code: 'VES-020', theirs: [{ column: 'title', before: 'Deck logs', after: '' }] }],
    }
    const wrapper = await bring('schedule.xlsx')
    expect(wrapper.text()).toContain('No clause.')
    expect(wrapper.text()).toMatch(/VES-020\s*title\s*Deck logs\s*empty/)
    expect(button('Write')).toBeUndefined()
    expect(calls('POST /api/schedule/return')[0]!.body).toMatchObject({ csv: null, xlsx: btoa('code\n') })
  })
})

describe('health', () => {
  it('puts what has something to say first, and opens it into rows that lead on', async () => {
    answers['GET /api/schedule/health'] = [
      {
        key: 'well',
        title: 'Short of an authority',
        count: 0,
        what: 'series',
        meaning: '',
        fix: '',
        rows: [],
        link: null,
      },
      {
        key: 'no-owner',
        title: 'Series without an owner',
        count: 1,
        what: 'series',
        meaning: 'Nobody answers for it.',
        fix: 'Name an owner.',
        rows: [{ title: 'FIN-030 Bank statements', note: 'Finance', link: '/schedule/21' }],
        link: null,
      },
    ]
    const wrapper = await place(HealthPlace, {}, '/schedule/health')
    expect(wrapper.findAll('.line').map((l) => l.text())).toEqual([
      'Series without an owner1 series',
      'Short of an authoritynone',
    ])
    await wrapper.get('.line').trigger('click')
    await flushPromises()
    expect(wrapper.get('.rows a').attributes('href')).toBe('/schedule/21')
    expect(wrapper.findAll('.line')[1]!.attributes('disabled')).toBeDefined()
  })
})

describe('retiring a series', () => {
  it('says on the button what happens to its items', async () => {
    answers['GET /api/series/names'] = []
    answers['POST /api/series/{id}/retirement/consequences'] = consequences()
    answers['POST /api/series/{id}/retirement'] = {}
    await place(RetireSeries, { series: { row: { id: 4, code: 'VES-010' }, revision: 6 } })
    await type('#why', 'Merged.')
    await press('Retire — 40 items stay under it')
    expect(calls('POST /api/series/{id}/retirement')[0]).toMatchObject({
      body: { successorId: null, fingerprint: 'seen', why: 'Merged.' },
      headers: { 'If-Match': '"6"' },
    })
  })
})

describe('what a second person must agree to', () => {
  const proposal: Schemas['ProposalView'] = {
    id: 3,
    kind: 'enable-worm',
    title: 'Enable the grade WORM',
    askedBy: 'Ines',
    askedAt: '2026-06-15T08:00:00Z',
    why: 'The law.',
    state: 'waiting',
    decidedBy: null,
    decidedAt: null,
    decidedWhy: null,
    mayNotDecide: null,
    overtaken: null,
    revision: 2,
  }
  const detail = (difference: string | null): Schemas['ProposalDetail'] => ({
    proposal,
    parts: [{ name: 'At the end', before: 'destroyed after sign-off', after: 'destroyed without sign-off' }],
    consequences: consequences(),
    difference,
  })
  const look = async (difference: string | null = null) => {
    answers['GET /api/proposals/{id}'] = detail(difference)
    answers['POST /api/proposals/{id}/decision'] = proposal
    await place(ProposalLine, { proposal })
    await press('Review …')
  }
  it('is agreed to with a reason', async () => {
    await look()
    await type('#why', 'Seen.')
    await press('Approve')
    expect(calls('POST /api/proposals/{id}/decision')[0]).toMatchObject({
      body: { agree: true, why: 'Seen.' },
      headers: { 'If-Match': '"2"' },
    })
  })
  it('shows the rule before and after', async () => {
    await look()
    expect(document.querySelector('.parts tbody')?.textContent).toBe(
      'At the enddestroyed after sign-offdestroyed without sign-off',
    )
  })
  it('is not agreed to once the figures are others', async () => {
    await look('4 items were due at once, and 6 are now')
    await type('#why', 'Seen.')
    expect(button('Approve')).toHaveProperty('disabled', true)
  })
  it('can only be withdrawn by the person who asked', async () => {
    await place(ProposalLine, {
      proposal: { ...proposal, mayNotDecide: 'You asked for this; another person must agree.' },
    })
    expect([button('Review …'), button('Withdraw …')?.textContent?.trim()]).toEqual([undefined, 'Withdraw …'])
  })
})
