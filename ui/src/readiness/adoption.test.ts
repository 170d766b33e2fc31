import { beforeEach, expect, it } from 'vitest'
import { flushPromises } from '@vue/test-utils'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import AdoptPanel from './AdoptPanel.vue'
import AskForm from './AskForm.vue'
import AssuranceRoom from './AssuranceRoom.vue'
import AuditSamples from './AuditSamples.vue'
import GivenPage from './GivenPage.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readReadiness', 'manageReadiness'))

const preview = (more = {}) => ({
  code: 'new',
  title: 'New standard',
  version: '2',
  adopted: false,
  answered: 1,
  requirements: [
    { code: 'n-1', group: '', title: 'One', controls: ['ACC-01'], through: ['old/o-1'] },
    { code: 'n-2', group: '', title: 'Two', controls: [], through: [] },
  ],
  ...more,
})
const library = () =>
  (answers['GET /api/frameworks/library'] = [
    { code: 'new', title: 'New standard', version: '2', source: '', requirements: 2, adopted: false },
    { code: 'old', title: 'Old standard', version: '1', source: '', requirements: 9, adopted: true },
  ])
async function choose(label: string, file: File) {
  const field = document.body.querySelector<HTMLInputElement>(`input[aria-label="${label}"]`)!
  Object.defineProperty(field, 'files', { value: [file], configurable: true })
  field.dispatchEvent(new Event('change'))
  await flushPromises()
}

it('shows what would be answered before anything is adopted', async () => {
  library()
  answers['GET /api/frameworks/preview'] = preview()
  const wrapper = await place(AdoptPanel)
  await press('Look at it')
  expect(wrapper.text()).toContain('1 of 2 requirements would be answered')
  expect(wrapper.text()).toContain('like old/o-1')
  expect(calls('POST /api/frameworks')).toHaveLength(0)
})
it('says what a profile holds besides and is not kept', async () => {
  library()
  answers['GET /api/frameworks/preview'] = preview({ passedOver: ['The profile sets parameters.'] })
  const wrapper = await place(AdoptPanel)
  await press('Look at it')
  expect(wrapper.text()).toContain('▲ The profile sets parameters.')
})
it('shows only what nothing answers, where that is wanted', async () => {
  library()
  answers['GET /api/frameworks/preview'] = preview()
  const wrapper = await place(AdoptPanel)
  await press('Look at it')
  await wrapper.get('label input[type=checkbox]').setValue(true)
  expect(wrapper.findAll('.list tr').map((r) => r.find('td').text())).toEqual(['n-2'])
})
it('adopts with the controls that answer it, and opens it', async () => {
  library()
  answers['GET /api/frameworks/preview'] = preview()
  answers['POST /api/frameworks'] = {}
  const wrapper = await place(AdoptPanel)
  await press('Look at it')
  await press('Adopt New standard')
  expect(calls('POST /api/frameworks')[0]!.body).toEqual({ code: 'new', map: true })
  expect(wrapper.emitted('adopted')).toEqual([['new']])
})
it('looks at a file first, and adopts the same file', async () => {
  library()
  answers['POST /api/frameworks/preview'] = preview()
  answers['POST /api/frameworks/oscal'] = {}
  await place(AdoptPanel)
  const file = new File(['{}'], 'profile.json')
  await choose('OSCAL catalog or profile', file)
  await press('Adopt New standard')
  expect(calls('POST /api/frameworks/oscal')[0]!.body).toBe(file)
})
it('shows why a file is none', async () => {
  library()
  answers['POST /api/frameworks/preview'] = new Error('catalog: it is missing: an OSCAL catalog is expected.')
  const wrapper = await place(AdoptPanel)
  await choose('OSCAL catalog or profile', new File(['{}'], 'x.json'))
  expect(wrapper.get('[role=alert]').text()).toContain('it is missing')
})
it('does not adopt twice', async () => {
  library()
  answers['GET /api/frameworks/preview'] = preview({ adopted: true })
  await place(AdoptPanel)
  await press('Look at it')
  expect(button('It is adopted already')!.disabled).toBe(true)
})

const ask = (more = {}) => ({
  id: 3,
  documentId: 1,
  document: 'Report',
  name: 'Kim',
  organisation: 'Harbour',
  mail: 'kim@x.example',
  reason: 'Our yearly look',
  askedAt: '2026-06-14T08:00:00Z',
  state: 'waiting',
  decidedBy: '',
  endsOn: null,
  opened: 0,
  revision: 1,
  ...more,
})
const room = (...asks: object[]) =>
  (answers['GET /api/assurance/room'] = {
    documents: [{ id: 1, title: 'Report', says: '', fileName: 'report.pdf', bytes: 2048, hash: '' }],
    asks,
    clients: [{ id: 2, name: 'Insurance', mail: 'i@x.example', endsOn: '2026-06-01', over: true, opened: 4 }],
  })

it('says who asks for which document, and why', async () => {
  room(ask())
  const text = (await place(AssuranceRoom)).text()
  expect(text).toContain('Kim, Harbour')
  expect(text).toContain('Report: “Our yearly look”')
  expect(text).toContain('▲ ended 1 Jun 2026, 4 copies')
})
it('gives a document for so many days by the revision that was read', async () => {
  room(ask())
  answers['POST /api/assurance/asks/{id}/decision'] = {}
  await place(AssuranceRoom)
  await press('Give it')
  const call = calls('POST /api/assurance/asks/{id}/decision')[0]!
  expect([call.body, call.headers]).toEqual([{ give: true, days: 14 }, { 'If-Match': '"1"' }])
})
it('refuses by one press', async () => {
  room(ask())
  answers['POST /api/assurance/asks/{id}/decision'] = {}
  await place(AssuranceRoom)
  await press('Refuse')
  expect(calls('POST /api/assurance/asks/{id}/decision')[0]!.body).toMatchObject({ give: false })
})
it('offers no decision about what is decided', async () => {
  room(ask({ state: 'given', decidedBy: 'Ines', endsOn: '2026-06-28', opened: 2 }))
  const wrapper = await place(AssuranceRoom)
  expect(wrapper.text()).toContain('✓ given until 28 Jun 2026, 2 copies')
  expect(button('Give it')).toBeUndefined()
})
it('offers a document with its title', async () => {
  room()
  answers['POST /api/assurance/documents'] = {}
  await place(AssuranceRoom)
  await type('[aria-label=Title]', 'Results')
  await choose('PDF', new File(['x'], 'results.pdf'))
  await press('Offer it')
  expect(calls('POST /api/assurance/documents')).toHaveLength(1)
})
it('names a client until a day', async () => {
  room()
  answers['POST /api/assurance/clients'] = {}
  await place(AssuranceRoom)
  await type('[aria-label=Client]', 'Harbour')
  await type('[aria-label="Client’s mail address"]', 'h@x.example')
  await type('[aria-label="Client until"]', '2026-12-31')
  await press('Name them')
  expect(calls('POST /api/assurance/clients')[0]!.body).toEqual({
    name: 'Harbour',
    mail: 'h@x.example',
    endsOn: '2026-12-31',
  })
})
it('changes nothing for somebody who only reads', async () => {
  signedIn('readReadiness')
  room(ask())
  await place(AssuranceRoom)
  expect(['Give it', 'Refuse', 'Withdraw', 'Remove', 'Offer it'].map((b) => button(b))).toEqual(
    Array(5).fill(undefined),
  )
})

it('asks for a document with a name and a reason', async () => {
  answers['POST /api/assurance/documents/{id}/asks'] = {}
  const wrapper = await place(AskForm, { document: { id: 1, title: 'Report', says: '' } })
  await press('Ask for it')
  await type('#n-1', 'Kim')
  await type('#o-1', 'Harbour')
  await type('#m-1', 'kim@x.example')
  await type('#r-1', 'Our yearly look')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/assurance/documents/{id}/asks')[0]!.body).toEqual({
    name: 'Kim',
    organisation: 'Harbour',
    mail: 'kim@x.example',
    reason: 'Our yearly look',
  })
  expect(wrapper.get('[role=status]').text()).toContain('kim@x.example')
})
it('keeps what was typed where a question is refused', async () => {
  answers['POST /api/assurance/documents/{id}/asks'] = new Error('“x” is no mail address.')
  const wrapper = await place(AskForm, { document: { id: 1, title: 'Report', says: '' } })
  await press('Ask for it')
  await type('#n-1', 'Kim')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(wrapper.get('[role=alert]').text()).toBe('“x” is no mail address.')
  expect(wrapper.get<HTMLInputElement>('#n-1').element.value).toBe('Kim')
})

it('opens the documents of a link', async () => {
  answers['GET /api/assurance/given/{token}'] = {
    organisation: 'Tarnholm Ferries',
    name: 'Kim, Harbour',
    endsOn: '2026-06-28',
    documents: [{ id: 1, title: 'Report', says: '' }],
  }
  const wrapper = await place(GivenPage)
  expect(wrapper.text()).toContain('For Kim, Harbour')
  expect(wrapper.get('a').text()).toBe('Report')
})
it('says of a link that has ended that it opens nothing', async () => {
  answers['GET /api/assurance/given/{token}'] = new Error('not found')
  expect((await place(GivenPage)).text()).toContain('This link opens nothing.')
})

const audit = (samples: object[] = []) => ({ id: 6, samples, populations: [] })
const sample = (more = {}) => ({
  id: 1,
  title: 'Leavers',
  population: 300,
  hash: 'abcdef0123456789',
  seed: 7,
  method: 'stratified',
  confidence: 0.95,
  tolerable: 0.05,
  expected: 0,
  finite: false,
  picked: [{ name: 'North | 3', deviates: null, note: '' }],
  strata: [
    { name: 'North', members: 100, drawn: 20 },
    { name: '', members: 200, drawn: 39 },
  ],
  found: null,
  upperLimit: null,
  drawnBy: 'Halvor Tind',
  maySet: true,
  ...more,
})
it('says how many of each stratum were drawn', async () => {
  const wrapper = await place(AuditSamples, { audit: audit([sample()]), mayDraw: false })
  expect(wrapper.text()).toContain('North 20 of 100 · without a unit 39 of 200')
})
it('says whether the upper limit is within what is tolerable', async () => {
  const wrapper = await place(AuditSamples, { audit: audit([sample({ found: 1, upperLimit: 0.08 })]), mayDraw: false })
  expect(wrapper.text()).toContain('at most 8 %')
  expect(wrapper.text()).toContain('that is more than is tolerable')
})
it('sets the result of a sample', async () => {
  answers['GET /api/measures'] = []
  answers['POST /api/audits/{id}/samples/{sample}/result'] = {}
  await place(AuditSamples, { audit: audit([sample()]), mayDraw: true })
  await press('Save the results')
  expect(calls('POST /api/audits/{id}/samples/{sample}/result')[0]!.body).toEqual({ items: [] })
})
it('sends which subject deviates, with its note', async () => {
  answers['GET /api/measures'] = []
  answers['POST /api/audits/{id}/samples/{sample}/result'] = {}
  const wrapper = await place(AuditSamples, { audit: audit([sample()]), mayDraw: true })
  await wrapper.get('[aria-label="North | 3 deviates"]').setValue(true)
  await type('[aria-label="Note on North | 3"]', 'No factor')
  await press('Save the results')
  expect(calls('POST /api/audits/{id}/samples/{sample}/result')[0]!.body).toEqual({
    items: [{ place: 1, deviates: true, note: 'No factor' }],
  })
})
it('freezes a list and draws from it', async () => {
  answers['GET /api/measures'] = []
  answers['POST /api/audits/{id}/samples'] = {}
  const wrapper = await place(AuditSamples, { audit: audit(), mayDraw: true })
  await type('#s-title', 'Leavers')
  await type('#s-list', 'a\nb')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/audits/{id}/samples')[0]!.body).toMatchObject({
    title: 'Leavers',
    population: ['a', 'b'],
    method: 'random',
    confidence: 0.95,
  })
})
it('draws nothing for somebody who only looks', async () => {
  await place(AuditSamples, { audit: audit([sample({ maySet: false })]), mayDraw: false })
  expect(button('Save the results')).toBeUndefined()
  expect(button('Draw the sample')).toBeUndefined()
})
