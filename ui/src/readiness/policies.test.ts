import { beforeEach, expect, it } from 'vitest'
import { flushPromises } from '@vue/test-utils'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import PoliciesPlace from './PoliciesPlace.vue'
import PolicyForm from './PolicyForm.vue'
import PolicyPage from './PolicyPage.vue'
import PolicyPane from './PolicyPane.vue'
import PolicyVersionForm from './PolicyVersionForm.vue'

tidyUp()
standIn()
beforeEach(() => {
  sessionStorage.clear()
  signedIn('readReadiness', 'manageReadiness')
  answers['GET /api/areas/people'] = { units: [{ unit: 'North', people: 2, guests: 0 }] }
  answers['GET /api/directory/groups'] = [{ id: 1, name: 'Crew', members: [] }]
})

const policy = (more: Partial<Schemas['PolicyView']> = {}): Schemas['PolicyView'] => ({
  id: 4,
  settings: {
    code: 'POL-1',
    title: 'Devices',
    says: '',
    owner: '',
    units: [],
    groups: [],
    days: 14,
    asksItself: false,
  },
  inForce: 1,
  awaits: null,
  reviewOverdue: false,
  endedOn: null,
  bound: 10,
  given: 7,
  asked: 0,
  overdue: 2,
  notAsked: 1,
  revision: 5,
  ...more,
})
const version = (more: Partial<Schemas['PolicyVersionView']> = {}): Schemas['PolicyVersionView'] => ({
  number: 1,
  change: '',
  text: 'Lock your device.',
  fileName: '',
  hash: 'abcdef0123456789abcdef',
  madeAt: '2026-06-01T08:00:00Z',
  madeBy: 'Ines',
  approvedBy: 'Astrid',
  approvedAt: '2026-06-01T09:00:00Z',
  inForceFrom: '2026-06-01',
  asksAnew: true,
  inForce: true,
  mayApprove: false,
  ...more,
})
const reader = (name: string, state: Schemas['Acknowledgement']) => ({
  mail: `${name}@x.example`,
  name,
  unit: 'North',
  state,
  number: 1,
  askedOn: '2026-06-01',
  dueOn: '2026-06-15',
  reminders: 0,
  openedAt: null,
  acknowledgedAt: state === 'given' ? '2026-06-02T08:00:00Z' : null,
})
const detail = (versions = [version()], readers = [reader('Ann', 'given'), reader('Bo', 'overdue')]) =>
  (answers['GET /api/policies/{id}'] = { policy: policy(), versions, readers })

it('says of each policy how many of those it binds know it', async () => {
  answers['GET /api/policies'] = [policy()]
  const text = (await place(PoliciesPlace)).text()
  expect(text).toContain('7 of 10 acknowledged')
  expect(text).toContain('▲ 2 overdue')
  expect(text).toContain('1 not asked')
})
it('says which version waits for approval, and which review is late', async () => {
  answers['GET /api/policies'] = [
    policy({ awaits: 2, reviewOverdue: true, settings: { ...policy().settings, reviewOn: '2026-05-01' } }),
  ]
  const text = (await place(PoliciesPlace)).text()
  expect(text).toContain('version 2 waits for approval')
  expect(text).toContain('review was due 1 May 2026')
})
it('offers nothing to add to somebody who only reads', async () => {
  signedIn('readReadiness')
  answers['GET /api/policies'] = []
  await place(PoliciesPlace)
  expect(button('Add a policy')).toBeUndefined()
})
it('shows the text in force with who wrote and who approved it', async () => {
  detail()
  const text = (await place(PolicyPane, { policy: policy() })).text()
  expect(text).toContain('Lock your device.')
  expect(text).toContain('written by Ines, approved by Astrid')
})
it('begins the next version with the text in force, however late that text arrives', async () => {
  let arrive: (detail: unknown) => void = () => undefined
  answers['GET /api/policies/{id}'] = new Promise((done) => (arrive = done))
  const wrapper = await place(PolicyPane, { policy: policy() })
  await press('Next version')
  arrive({ policy: policy(), versions: [version()], readers: [] })
  await flushPromises()
  expect(wrapper.find<HTMLTextAreaElement>('#pv-text').element.value).toBe('Lock your device.')
})
it('lets only another person approve', async () => {
  detail([version({ number: 2, approvedAt: null, approvedBy: '', inForce: false })])
  const wrapper = await place(PolicyPane, { policy: policy() })
  expect(wrapper.text()).toContain('Another person than Ines approves it.')
  expect(button('Approve version 2')).toBeUndefined()
})
it('approves by one press who may', async () => {
  detail([version({ number: 2, approvedAt: null, approvedBy: '', inForce: false, mayApprove: true })])
  answers['POST /api/policies/{id}/versions/{number}/approval'] = {}
  await place(PolicyPane, { policy: policy() })
  await press('Approve version 2')
  expect(calls('POST /api/policies/{id}/versions/{number}/approval')).toHaveLength(1)
})
it('lists everybody it binds, and those of one state', async () => {
  detail()
  const wrapper = await place(PolicyPane, { policy: policy() })
  expect(wrapper.findAll('tbody tr')).toHaveLength(2)
  await wrapper.get('input[value=overdue]').setValue(true)
  expect(wrapper.findAll('tbody tr').map((r) => r.find('td').text())).toEqual(['Bo'])
})
it('finds somebody by a part of the name', async () => {
  detail()
  const wrapper = await place(PolicyPane, { policy: policy() })
  await wrapper.get('input[aria-label=Find]').setValue('an')
  expect(wrapper.findAll('tbody tr').map((r) => r.find('td').text())).toEqual(['Ann'])
})
it('asks those whom nobody has asked, and says how many', async () => {
  detail()
  answers['POST /api/policies/{id}/requests'] = { asked: 1 }
  const wrapper = await place(PolicyPane, { policy: policy() })
  await press('Ask 1')
  expect(wrapper.get('[role=status]').text()).toBe('1 person asked by message.')
})
it('reminds those who are late', async () => {
  detail()
  answers['POST /api/policies/{id}/reminders'] = { asked: 2 }
  const wrapper = await place(PolicyPane, { policy: policy() })
  await press('Remind 2')
  expect(wrapper.get('[role=status]').text()).toBe('2 people reminded.')
})
it('says what ending does before it ends', async () => {
  detail()
  answers['POST /api/policies/{id}/end'] = {}
  await place(PolicyPane, { policy: policy() })
  await press('End it')
  expect(document.body.textContent).toContain('From tomorrow it binds nobody')
  expect(calls('POST /api/policies/{id}/end')).toHaveLength(0)
  await press('End it')
  expect(calls('POST /api/policies/{id}/end')).toHaveLength(1)
})
it('shows the words of a refusal', async () => {
  detail()
  answers['POST /api/policies/{id}/requests'] = new Error('No version is in force: nobody can be asked yet.')
  const wrapper = await place(PolicyPane, { policy: policy() })
  await press('Ask 1')
  expect(wrapper.get('[role=alert]').text()).toBe('No version is in force: nobody can be asked yet.')
})

it('makes a policy and opens it', async () => {
  answers['POST /api/policies'] = { id: 9 }
  const wrapper = await place(PolicyForm)
  await type('#po-code', 'POL-9')
  await type('#po-title', 'Devices')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/policies')[0]!.body).toMatchObject({ code: 'POL-9', title: 'Devices', days: 14 })
  expect(wrapper.emitted('kept')).toEqual([[9]])
})
it('changes a policy by the revision that was read, and never its code', async () => {
  answers['PUT /api/policies/{id}'] = {}
  const wrapper = await place(PolicyForm, { policy: policy() })
  expect(wrapper.find('#po-code').exists()).toBe(false)
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('PUT /api/policies/{id}')[0]!.headers).toEqual({ 'If-Match': '"5"' })
})

it('begins the next version with the text of the last', async () => {
  const wrapper = await place(PolicyVersionForm, { id: 4, versions: [version()] })
  expect(wrapper.get<HTMLTextAreaElement>('#pv-text').element.value).toBe('Lock your device.')
  expect(wrapper.text()).toContain('Text of version 2')
})
it('asks for approval of a version with what is different', async () => {
  answers['POST /api/policies/{id}/versions'] = {}
  const wrapper = await place(PolicyVersionForm, { id: 4, versions: [version()] })
  await type('#pv-change', 'The number to call')
  await press('Ask for approval')
  expect(calls('POST /api/policies/{id}/versions')[0]!.body).toEqual({
    text: 'Lock your device.',
    change: 'The number to call',
    inForceFrom: '2026-06-15',
    asksAnew: true,
  })
  expect(wrapper.emitted('kept')).toHaveLength(1)
})
it('keeps what is typed of a version until it is saved', async () => {
  const first = await place(PolicyVersionForm, { id: 4, versions: [] })
  await type('#pv-text', 'Half a sentence')
  first.unmount()
  const again = await place(PolicyVersionForm, { id: 4, versions: [] })
  expect(again.get<HTMLTextAreaElement>('#pv-text').element.value).toBe('Half a sentence')
})

const page = (more: Partial<Schemas['PolicyPage']> = {}): Schemas['PolicyPage'] => ({
  organisation: 'Tarnholm Ferries',
  name: 'Ann',
  title: 'Devices',
  number: 1,
  change: '',
  text: 'Lock your device.',
  fileName: '',
  inForceFrom: '2026-06-01',
  dueOn: '2026-06-15',
  acknowledgedAt: null,
  superseded: false,
  ...more,
})
it('notes that a policy was opened, once', async () => {
  answers['GET /api/policy/{token}'] = page()
  answers['POST /api/policy/{token}/opening'] = {}
  await place(PolicyPage)
  expect(calls('POST /api/policy/{token}/opening')).toHaveLength(1)
})
it('is acknowledged by one press', async () => {
  answers['GET /api/policy/{token}'] = page()
  answers['POST /api/policy/{token}/acknowledgement'] = {}
  await place(PolicyPage)
  await press('I have read it and will keep to it')
  expect(calls('POST /api/policy/{token}/acknowledgement')).toHaveLength(1)
})
it('asks nothing more of who has acknowledged', async () => {
  answers['GET /api/policy/{token}'] = page({ acknowledgedAt: '2026-06-02T08:00:00Z' })
  const wrapper = await place(PolicyPage)
  expect(wrapper.text()).toContain('You acknowledged it on')
  expect(button('I have read it')).toBeUndefined()
})
it('asks nothing about a version that binds nobody any more', async () => {
  answers['GET /api/policy/{token}'] = page({ superseded: true })
  await place(PolicyPage)
  expect(button('I have read it')).toBeUndefined()
})
it('takes a version back with a reason', async () => {
  detail([version({ number: 2, approvedAt: null, approvedBy: '', inForce: false })])
  answers['POST /api/policies/{id}/versions/{number}/refusal'] = {}
  await place(PolicyPane, { policy: policy() })
  await press('Take it back …')
  expect(button('Take it back')!.disabled).toBe(true)
  await type('[aria-label=Why]', 'A sentence is missing')
  await press('Take it back')
  expect(calls('POST /api/policies/{id}/versions/{number}/refusal')[0]!.body).toEqual({ why: 'A sentence is missing' })
})
it('lets another person turn a version down', async () => {
  detail([version({ number: 2, approvedAt: null, approvedBy: '', inForce: false, mayApprove: true })])
  await place(PolicyPane, { policy: policy() })
  expect(button('Turn it down …')).toBeDefined()
})
it('sends only the file again where the text is kept already', async () => {
  answers['POST /api/policies/{id}/versions'] = {}
  answers['PUT /api/policies/{id}/versions/{number}/file'] = new Error('devices.pdf is empty: it shows nothing.')
  const wrapper = await place(PolicyVersionForm, { id: 4, versions: [version()] })
  const field = document.body.querySelector<HTMLInputElement>('input[type=file]')!
  Object.defineProperty(field, 'files', { value: [new File(['x'], 'devices.pdf')], configurable: true })
  field.dispatchEvent(new Event('change'))
  await press('Ask for approval')
  expect(wrapper.get('[role=alert]').text()).toContain('is empty')
  answers['PUT /api/policies/{id}/versions/{number}/file'] = {}
  await press('Ask for approval')
  expect(calls('POST /api/policies/{id}/versions')).toHaveLength(1)
  expect(wrapper.emitted('kept')).toHaveLength(1)
})
it('names a group by its key, whatever it is called', async () => {
  answers['GET /api/directory/groups'] = [{ id: 1, key: 'crew-7', name: 'Crew', members: [] }]
  const wrapper = await place(PolicyForm)
  expect(wrapper.findAllComponents({ name: 'ElOption' }).map((o) => o.props('value'))).toContain('crew-7')
})
