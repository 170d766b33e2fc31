import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import BatchPane from './BatchPane.vue'
import BatchResult from './BatchResult.vue'
import CertificatesPlace from './CertificatesPlace.vue'
import ClearDue from './ClearDue.vue'
import DocketPlace from './DocketPlace.vue'
import MarkDialog from './MarkDialog.vue'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('signDisposition', 'readDocket')
  sessionStorage.clear()
})

const batch = (part: Partial<Schemas['BatchView']> = {}): Schemas['BatchView'] => ({
  id: 7,
  series: { id: 3, code: 'PAX-030', title: 'Passenger lists' },
  unit: 'Fleet',
  month: null,
  transfers: false,
  state: 'open',
  openedBy: 'Ines Calloway',
  openedAt: '2026-06-01T08:00:00Z',
  doneAt: null,
  stages: [
    { role: 'recordsManager', person: null, deputy: null, days: 14 },
    { role: 'recordsManager', person: null, deputy: null, days: 14 },
  ] as never,
  signOffs: [],
  lines: 3,
  opened: 1,
  toDestroy: 3,
  toExtend: 0,
  toRefile: 0,
  toTransfer: 0,
  asked: 0,
  destroyed: 0,
  extended: 0,
  refiled: 0,
  transferred: 0,
  droppedOut: 0,
  failed: 0,
  bytes: 2048,
  oldest: '2026-05-01',
  graceEnds: '2026-08-01',
  stageDue: '2026-06-20',
  overdue: false,
  mayNotSign: null,
  certificateId: null,
  certificateNumber: null,
  supplements: [],
  stuck: false,
  bundle: null,
  revision: 4,
  ...part,
})
const signed = { stage: 0, by: 'Tobias Renner', at: '2026-06-02T08:00:00Z', comment: 'Seen.', linesOpened: 2, lines: 3 }
const line = (id: number, part: Partial<Schemas['LineView']> = {}) =>
  ({
    item: { id, title: `List ${id}`, bytes: 1024, disposableFrom: '2026-05-01' },
    mark: 'destroy',
    extendUntil: null,
    extendWhy: null,
    refileTo: null,
    question: null,
    state: 'waiting',
    outcome: null,
    openedBy: null,
    ...part,
  }) as Schemas['LineView']

describe('what a batch came to', () => {
  const result = (part: Partial<Schemas['BatchView']>) => place(BatchResult, { batch: batch(part), busy: false })
  it('says what was destroyed and what failed', async () =>
    expect((await result({ state: 'done', destroyed: 40, failed: 2 })).text()).toContain(
      '40 destroyed, 0 extended, 0 dropped out, 2 failed.',
    ))
  it('leaves out what nobody asked for', async () =>
    expect((await result({ state: 'done', destroyed: 40 })).text()).not.toContain('handed over'))
  it('leads to its certificate', async () => {
    const wrapper = await result({ state: 'done', certificateId: 5, certificateNumber: '2026-0005' })
    expect(wrapper.get('a').attributes('href')).toBe('/schedule/certificates?certificate=5')
  })
  it('leads to each supplement', async () => {
    const wrapper = await result({
      state: 'done',
      certificateId: 5,
      certificateNumber: '2026-0005',
      supplements: [{ id: 6, number: '2026-0005/2' }],
    })
    expect(wrapper.text()).toContain('supplement 2026-0005/2')
  })
  it('asks to try what failed again', async () => {
    const wrapper = await result({ state: 'done', failed: 1 })
    await press('Try the failed again')
    expect(wrapper.emitted('retry')).toHaveLength(1)
  })
  it('offers no further try where nothing failed', async () => {
    await result({ state: 'done', destroyed: 3 })
    expect(button('Try the failed again')).toBeUndefined()
  })
  it('offers no further try to somebody who may not sign', async () => {
    signedIn('readDocket')
    await result({ state: 'done', failed: 1 })
    expect(button('Try the failed again')).toBeUndefined()
  })
  it('can be gone on with where its job failed', async () => {
    const wrapper = await result({ state: 'executing', stuck: true })
    await press('Go on with it')
    expect(wrapper.emitted('retry')).toHaveLength(1)
  })
  it('is awaited while its job runs', async () =>
    expect((await result({ state: 'executing' })).text()).toContain('Being carried out'))
  it('is nothing before it is signed', async () => expect((await result({})).text()).toBe(''))
})

const due = (part: Partial<Schemas['DueGroup']> = {}): Schemas['DueGroup'] => ({
  series: { id: 9, code: 'TMP-010', title: 'Temporary' },
  blanketId: null,
  unit: 'Fleet',
  items: 3,
  bytes: 3072,
  oldest: '2026-05-01',
  graceEnds: '2026-06-01',
  stages: [],
  months: [],
  mayNotClear: null,
  ...part,
})

describe('clearing what is due without sign-off', () => {
  it('asks for the reason and for the word', async () => {
    await place(ClearDue, { group: due() })
    await press('Destroy 3 items …')
    await type('#why', 'Nobody needs it.')
    expect(button('Destroy 3 items now')!.disabled).toBe(true)
  })
  it('sends what was seen', async () => {
    answers['POST /api/clearings'] = { id: 12 }
    const wrapper = await place(ClearDue, { group: due() })
    await press('Destroy 3 items …')
    await type('#why', 'Nobody needs it.')
    await type('#word', 'destroy')
    await press('Destroy 3 items now')
    expect(calls('POST /api/clearings')[0]!.body).toEqual({
      seriesId: 9,
      blanketId: null,
      items: 3,
      why: 'Nobody needs it.',
    })
    expect(wrapper.emitted('made')![0]).toEqual([12])
  })
  it('names the blanket and no series where a blanket destroys', async () => {
    answers['POST /api/clearings'] = { id: 12 }
    await place(ClearDue, { group: due({ blanketId: 2 }) })
    await press('Destroy 3 items …')
    await type('#why', 'Scratch.')
    await type('#word', 'destroy')
    await press('Destroy 3 items now')
    expect(calls('POST /api/clearings')[0]!.body).toMatchObject({ seriesId: null, blanketId: 2 })
  })
  it('is not offered to who put the rule into effect, and says why', async () => {
    const wrapper = await place(ClearDue, { group: due({ mayNotClear: 'You put the rule into effect.' }) })
    expect(button('Destroy 3 items')!.disabled).toBe(true)
    expect(wrapper.text()).toContain('You put the rule into effect.')
  })
  it('shows a refusal where it was asked', async () => {
    answers['POST /api/clearings'] = new Error('4 items are due now, not 3.')
    await place(ClearDue, { group: due() })
    await press('Destroy 3 items …')
    await type('#why', 'x')
    await type('#word', 'destroy')
    await press('Destroy 3 items now')
    expect(document.body.textContent).toContain('4 items are due now, not 3.')
  })
})

describe('a mark that needs more than a press', () => {
  const dialog = (marking: 'extend' | 'refile' | 'ask') => {
    answers['GET /api/series/names'] = []
    answers['GET /api/colleagues'] = []
    return place(MarkDialog, { marking, items: 2, seriesId: 3, busy: false, problem: null })
  }
  it('says how many items it is about', async () => {
    await dialog('extend')
    expect(document.body.textContent).toContain('Extend 2 items')
  })
  it('asks for a day where one extends until a day', async () => {
    await dialog('extend')
    expect(document.body.querySelector('#until')).not.toBeNull()
  })
  it('offers periods where one extends by a period', async () => {
    await dialog('extend')
    document.body.querySelector<HTMLInputElement>('input[value=by]')!.click()
    await flushPromises()
    expect(document.body.querySelector('#span')!.textContent).toContain('5 years')
  })
})

const open = async (part: Partial<Schemas['BatchView']> = {}, lines = [line(1), line(2), line(3)], at = '/d') => {
  answers['GET /api/batches/{id}'] = batch(part)
  answers['GET /api/batches/{id}/lines'] = { lines, next: null, total: lines.length }
  answers['GET /api/items/{id}'] = new Error('not here')
  const wrapper = await place(BatchPane, { id: 7 }, at)
  await flushPromises()
  return wrapper
}

describe('a batch', () => {
  it('says how much of it was looked at', async () => expect((await open()).text()).toContain('1 of 3 opened'))
  it('names who signs next, and until when', async () =>
    expect((await open()).text()).toContain('Stage 1: a records manager, until 20 Jun 2026'))
  it('says that a stage is late', async () =>
    expect((await open({ overdue: true })).text()).toContain('overdue since 20 Jun 2026'))
  it('shows a signature with what had been opened', async () =>
    expect((await open({ state: 'signing', signOffs: [signed] })).text()).toContain('after 2 of 3 had been opened'))
  it('is signed with a comment', async () => {
    answers['POST /api/batches/{id}/sign-offs'] = {}
    await open()
    await press('Sign stage 1 of 2')
    await type('#comment', 'Seen all.')
    await press('Sign stage 1 of 2')
    expect(calls('POST /api/batches/{id}/sign-offs')[0]).toMatchObject({
      body: { comment: 'Seen all.' },
      headers: { 'If-Match': '"4"' },
    })
  })
  it('is not signed without a comment', async () => {
    await open()
    await press('Sign stage 1 of 2')
    expect(button('Sign stage 1 of 2')!.disabled).toBe(true)
  })
  it('asks for the word before the last signature', async () => {
    await open({ state: 'signing', signOffs: [signed] })
    await press('Sign and destroy 3')
    await type('#comment', 'Seen.')
    expect(button('Sign and destroy 3')!.disabled).toBe(true)
  })
  it('says why one may not sign', async () =>
    expect((await open({ mayNotSign: 'You opened it; another person signs.' })).text()).toContain(
      'You opened it; another person signs.',
    ))
  it('marks the open line by a key', async () => {
    answers['POST /api/batches/{id}/marks'] = {}
    answers['POST /api/batches/{id}/lines/{item}/opened'] = {}
    await open({}, undefined, '/d?line=2')
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'd', bubbles: true }))
    await flushPromises()
    expect(calls('POST /api/batches/{id}/marks')[0]!.body).toMatchObject({ items: [2], mark: 'destroy' })
  })
  it('counts the line that is opened as looked at', async () => {
    answers['POST /api/batches/{id}/lines/{item}/opened'] = {}
    await open({}, undefined, '/d?line=2')
    expect(calls('POST /api/batches/{id}/lines/{item}/opened').length).toBeGreaterThan(0)
  })
  it('offers no marks once it is signed', async () => {
    await open({ state: 'signing', signOffs: [signed] }, undefined, '/d?line=2')
    expect(button('Re-file')).toBeUndefined()
  })
  it('that failed in part is tried again', async () => {
    answers['POST /api/batches/{id}/retry'] = {}
    await open({ state: 'done', failed: 1, destroyed: 2 })
    await press('Try the failed again')
    expect(calls('POST /api/batches/{id}/retry')).toHaveLength(1)
  })
  it('with a bundle offers it until the archive has it', async () => {
    const bundle = { id: 4, items: 2, bytes: 10, hash: 'a', madeAt: '2026-06-01T08:00:00Z', revision: 1 }
    const wrapper = await open({
      state: 'done',
      bundle: { ...bundle, receivedAt: null, receivedBy: null, receipt: null },
    })
    expect(wrapper.get('a[download]').attributes('href')).toBe('/api/bundles/4.zip')
  })
  it('whose bundle the archive has says since when and as what', async () => {
    const bundle = { id: 4, items: 2, bytes: 10, hash: 'a', madeAt: '2026-06-01T08:00:00Z', revision: 1 }
    const wrapper = await open({
      state: 'done',
      bundle: { ...bundle, receivedAt: '2026-06-03T08:00:00Z', receivedBy: 'Ines Calloway', receipt: 'A-17' },
    })
    expect(wrapper.text()).toContain('as “A-17”')
  })
})

describe('the docket', () => {
  const docket = async (dueGroups: Schemas['DueGroup'][], batches: Schemas['BatchView'][] = [], at = '/d') => {
    answers['GET /api/docket'] = { due: dueGroups, batches }
    answers['GET /api/batches/{id}'] = batches[0]
    answers['GET /api/batches/{id}/lines'] = { lines: [], next: null, total: 0 }
    return place(DocketPlace, {}, at)
  }
  it('parts what waits for oneself from what waits for others', async () => {
    const wrapper = await docket([], [batch(), batch({ id: 8, mayNotSign: 'Another person signs.' })])
    expect(wrapper.text()).toMatch(/Waits for your signature[\s\S]*Waits for somebody else/)
  })
  it('opens a batch of what is due', async () => {
    answers['POST /api/batches'] = { id: 7 }
    const stages = batch().stages
    await docket([due({ stages })], [], '/d?due=9')
    await press('Open a batch of 3')
    expect(calls('POST /api/batches')[0]!.body).toMatchObject({ seriesId: 9 })
  })
  it('says who signs', async () =>
    expect((await docket([due({ stages: batch().stages })], [], '/d?due=9')).text()).toContain('one after the other'))
  it('says that nobody signs where a rule destroys without', async () =>
    expect((await docket([due()], [], '/d?due=9')).text()).toContain('the rule destroys without sign-off'))
  it('says that nothing is due any more where the address is old', async () =>
    expect((await docket([], [], '/d?due=9')).text()).not.toContain('Open a batch'))
})

describe('certificates', () => {
  const certificate = {
    id: 5,
    number: '2026-0005',
    batchId: 7,
    code: 'PAX-030',
    title: 'Passenger lists',
    issuedAt: '2026-06-15T08:00:00Z',
    items: 24,
    bytes: 100,
    hasList: true,
  }
  const shown = async (part: Partial<typeof certificate> = {}) => {
    answers['GET /api/certificates'] = [{ ...certificate, ...part }]
    vi.stubGlobal('fetch', () =>
      Promise.resolve(
        new Response(
          JSON.stringify({
            method: 'Deleted.',
            series: { code: 'PAX-030', title: 'Passenger lists', version: 1, authority: '' },
            approvals: [],
            items: [
              {
                id: 1,
                source: 'Fleet share',
                path: 'a.csv',
                sha256: 'x',
                created: '2020-01-01',
                entry: 3,
                keptThrough: '',
              },
            ],
            notDestroyed: [{ id: 2, path: 'b.csv', outcome: 'Failed', why: 'It is locked.' }],
            ledger: { size: 9, root: 'abc', at: '' },
          }),
        ),
      ),
    )
    const wrapper = await place(CertificatesPlace, {}, '/c?certificate=5')
    await flushPromises()
    vi.unstubAllGlobals()
    return wrapper
  }
  it.each(['pdf', 'csv', 'json'])('can be taken along as %s', async (form) => {
    const wrapper = await shown()
    expect(wrapper.findAll('a[download]').map((a) => a.attributes('href'))).toContain(
      `/api/certificates/5/document.${form}`,
    )
  })
  it('name the source of each item', async () => expect((await shown()).text()).toContain('Fleet share'))
  it('say what was not destroyed, and why', async () =>
    expect((await shown()).text()).toContain('b.csv: It is locked.'))
  it('whose term is over keep their number', async () =>
    expect((await shown({ hasList: false })).text()).toContain('its number and counts remain'))
})
