import { beforeEach, expect, it } from 'vitest'
import { flushPromises } from '@vue/test-utils'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import ControlForm from './ControlForm.vue'
import ControlPane from './ControlPane.vue'
import ControlsPlace from './ControlsPlace.vue'
import NextFixes from './NextFixes.vue'
import PartForm from './PartForm.vue'
import PartLine from './PartLine.vue'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('readReadiness', 'manageReadiness')
  answers['GET /api/units'] = [{ id: 1, parentId: null, name: 'North', depth: 0 }]
})

const proof = (more: Partial<Schemas['ProofView']> = {}): Schemas['ProofView'] => ({
  id: 50,
  at: '2026-06-14T06:00:00Z',
  day: '2026-06-14',
  passed: true,
  says: '9 of 10 are as they should be (90 %).',
  by: 'the daily run',
  fileName: '',
  bytes: 0,
  hash: 'abcdef0123456789',
  reviewedBy: '',
  withdrawnBy: '',
  withdrawnWhy: '',
  broken: false,
  ...more,
})
const part = (more: Partial<Schemas['PartView']> = {}): Schemas['PartView'] => ({
  id: 5,
  kind: 'test',
  title: 'Second factor',
  weight: 1,
  measure: 'second-factor',
  expected: 95,
  period: 'P7D',
  recurrence: '',
  first: null,
  needsReview: false,
  toApprove: null,
  doer: '',
  deputy: '',
  counts: true,
  endsOn: '2026-06-21',
  due: null,
  seenBy: [],
  kept: false,
  mayBring: true,
  proofs: [proof()],
  ...more,
})
const control = (more: Partial<Schemas['ControlView']> = {}): Schemas['ControlView'] => ({
  id: 3,
  settings: {
    code: 'ACC-01',
    title: 'People sign in with a second factor',
    says: '',
    area: 'access',
    owner: 'jonas@x.example',
    units: [],
    requirements: ['nist/PR.AA', 'nist/PR.DS', 'own/srs-8'],
    weight: 1,
    effort: 8,
  },
  readiness: 0.5,
  state: 'partly',
  formula: '1 of 2 = 50 %',
  notApplicable: '',
  awaitsApproval: false,
  mayApprove: false,
  approvedBy: '',
  parts: [part()],
  findings: [],
  revision: 4,
  ...more,
})
const line = (more: Partial<Schemas['PartView']> = {}) => place(PartLine, { part: part(more), control: 3 })

it('says what a test found, when, and until when it counts', async () => {
  const text = (await line()).text()
  expect(text).toContain('9 of 10 are as they should be')
  expect(text).toContain('It counts until 21 Jun 2026.')
})
it('says of a part without a proof that there is none', async () => {
  expect((await line({ proofs: [], counts: false })).text()).toContain('No run yet.')
  expect((await line({ kind: 'evidence', proofs: [], counts: false })).text()).toContain('No proof yet.')
})
it('runs a test by one press', async () => {
  answers['POST /api/control-parts/{id}/runs'] = {}
  await line()
  await press('Run now')
  expect(calls('POST /api/control-parts/{id}/runs')).toHaveLength(1)
})
it('opens what a test looked at, and shows what is wrong only', async () => {
  answers['GET /api/proofs/{id}'] = {
    proof: proof(),
    control: 'ACC-01',
    title: '',
    facts: [
      { id: 'a', name: 'Ann', unit: '', right: false, why: 'Has none.', link: '/access?person=a' },
      { id: 'b', name: 'Bo', unit: '', right: true, why: 'Has one.', link: '' },
    ],
  }
  const wrapper = await line()
  await press('Show the facts')
  expect(wrapper.text()).toContain('1 of 2 are not as they should be')
  expect(wrapper.text()).not.toContain('Has one.')
})
it('says that a routine is done, with what shows it', async () => {
  answers['POST /api/control-parts/{id}/done'] = {}
  await line({ kind: 'routine', due: '2026-06-01', proofs: [], counts: false })
  await press('Mark as done')
  await type('[aria-label=Proof]', 'Looked through on Monday')
  await press('Save')
  expect(calls('POST /api/control-parts/{id}/done')[0]!.body).toEqual({ text: 'Looked through on Monday' })
})
it('gives a file as evidence', async () => {
  answers['POST /api/control-parts/{id}/evidence'] = {}
  answers['GET /api/controls'] = []
  await line({ kind: 'evidence', proofs: [], counts: false })
  await press('Add evidence')
  const field = document.body.querySelector<HTMLInputElement>('input[type=file]')!
  const file = new File(['x'], 'report.pdf')
  Object.defineProperty(field, 'files', { value: [file], configurable: true })
  field.dispatchEvent(new Event('change'))
  await flushPromises()
  await press('Add the file')
  expect(calls('POST /api/control-parts/{id}/evidence')[0]!.body).toBe(file)
})
it('withdraws a proof with its reason', async () => {
  answers['POST /api/proofs/{id}/withdrawal'] = {}
  await line({ kind: 'evidence', mayBring: true, proofs: [proof()] })
  await press('1 proof')
  await press('Withdraw')
  await type('[aria-label=Reason]', 'Of another ship')
  document.body.querySelector('.proofs form')!.dispatchEvent(new Event('submit'))
  await flushPromises()
  expect(calls('POST /api/proofs/{id}/withdrawal')[0]!.body).toEqual({ reason: 'Of another ship' })
})
it('approves the latest file, where it waits for somebody else', async () => {
  answers['POST /api/proofs/{id}/review'] = {}
  await line({ kind: 'evidence', needsReview: true, toApprove: 50, counts: false, proofs: [proof()] })
  await press('Approve')
  expect(calls('POST /api/proofs/{id}/review')).toHaveLength(1)
})
it('says that a file is missing, and offers no link to it', async () => {
  const wrapper = await line({ kind: 'evidence', proofs: [proof({ fileName: 'a.pdf', broken: true })] })
  expect([wrapper.text().includes('missing or was changed'), wrapper.find('a[download]').exists()]).toEqual([
    true,
    false,
  ])
})
it('changes a part in place, its kind staying', async () => {
  answers['PUT /api/controls/{id}/parts/{part}'] = {}
  answers['GET /api/measures'] = []
  await line({ kind: 'evidence', title: 'Report', period: 'P90D', proofs: [] })
  await press('Edit')
  await type('#p-title', 'Report of the year')
  await press('Save')
  expect(calls('PUT /api/controls/{id}/parts/{part}')[0]!.body).toMatchObject({
    kind: 'evidence',
    title: 'Report of the year',
    period: 'P90D',
  })
})
it('shows former proofs as a strip, the oldest first', async () => {
  const wrapper = await line({ proofs: [proof({ id: 2, passed: false }), proof({ id: 1 })] })
  expect(wrapper.get('.strip').text()).toBe('●▲')
})
it('offers no runs and no removal to somebody who only reads', async () => {
  signedIn('readReadiness')
  await line()
  expect(button('Run now')).toBeUndefined()
  expect(button('Remove')).toBeUndefined()
})

it('shows how the figure of a control is made', async () => {
  const text = (await place(ControlPane, { control: control() })).text()
  expect(text).toContain('50 %')
  expect(text).toContain('1 of 2 = 50 %')
})
it('groups what it answers by framework', async () => {
  const text = (await place(ControlPane, { control: control() })).text()
  expect(text).toContain('Answers 3 requirements')
  expect(text).toContain('nist: PR.AA, PR.DS')
})
it('says that nothing shows a control without parts', async () => {
  expect((await place(ControlPane, { control: control({ parts: [] }) })).text()).toContain('Nothing shows yet')
})
it('asks for a control to be not applicable with a reason', async () => {
  answers['POST /api/controls/{id}/not-applicable'] = {}
  await place(ControlPane, { control: control() })
  await press('Not applicable')
  await type('[aria-label=Reason]', 'We have no such thing')
  await press('Ask for approval')
  expect(calls('POST /api/controls/{id}/not-applicable')[0]!.body).toEqual({ reason: 'We have no such thing' })
})
it('lets another person approve', async () => {
  answers['POST /api/controls/{id}/approval'] = {}
  await place(ControlPane, { control: control({ awaitsApproval: true, mayApprove: true, notApplicable: 'None' }) })
  await press('Approve')
  expect(calls('POST /api/controls/{id}/approval')).toHaveLength(1)
})
it('offers no approval to who asked', async () => {
  await place(ControlPane, { control: control({ awaitsApproval: true, notApplicable: 'None' }) })
  expect(button('Approve')).toBeUndefined()
})
it('changes a control by the revision that was read, and never its code', async () => {
  answers['PUT /api/controls/{id}'] = {}
  const wrapper = await place(ControlPane, { control: control() })
  await press('Edit')
  expect(wrapper.find('#c-code').exists()).toBe(false)
  await type('#c-title', 'Everybody signs in with a second factor')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  const call = calls('PUT /api/controls/{id}')[0]!
  expect(call.headers).toEqual({ 'If-Match': '"4"' })
  expect(call.body).toMatchObject({
    code: 'ACC-01',
    title: 'Everybody signs in with a second factor',
    requirements: ['nist/PR.AA', 'nist/PR.DS', 'own/srs-8'],
    effort: 8,
  })
})
it('removes a control and closes it', async () => {
  answers['DELETE /api/controls/{id}'] = {}
  const wrapper = await place(ControlPane, { control: control() })
  await press('Remove the control')
  expect(wrapper.emitted('close')).toHaveLength(1)
})

it('makes a control and says its code', async () => {
  answers['POST /api/controls'] = {}
  const wrapper = await place(ControlForm)
  await type('#c-code', 'REC-09')
  await type('#c-title', 'Paper is counted')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/controls')[0]!.body).toMatchObject({ code: 'REC-09', weight: 1, effort: 4, units: [] })
  expect(wrapper.emitted('kept')).toEqual([['REC-09']])
})
it('keeps what was typed where a control is refused', async () => {
  answers['POST /api/controls'] = new Error('There is a control REC-09 already.')
  const wrapper = await place(ControlForm)
  await type('#c-code', 'REC-09')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(wrapper.get('[role=alert]').text()).toBe('There is a control REC-09 already.')
  expect(wrapper.get<HTMLInputElement>('#c-code').element.value).toBe('REC-09')
})

it('adds a test with the percent that must be right', async () => {
  answers['GET /api/measures'] = []
  answers['POST /api/controls/{id}/parts'] = {}
  const wrapper = await place(PartForm, { control: 3 })
  await type('#p-title', 'Second factor')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/controls/{id}/parts')[0]!.body).toMatchObject({ kind: 'test', expected: 100, first: null })
})
it('adds a routine with its rule and its first day', async () => {
  answers['GET /api/measures'] = []
  answers['POST /api/controls/{id}/parts'] = {}
  const wrapper = await place(PartForm, { control: 3 })
  await wrapper.get('input[value=routine]').setValue(true)
  await type('#p-title', 'Look through')
  wrapper.findAllComponents({ name: 'ElSelect' })[0]!.vm.$emit('update:modelValue', 'FREQ=WEEKLY')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/controls/{id}/parts')[0]!.body).toMatchObject({
    kind: 'routine',
    recurrence: 'FREQ=WEEKLY',
    first: '2026-06-15',
  })
})

it('finds a control by its code, its words and its owner', async () => {
  answers['GET /api/controls'] = [
    control(),
    control({ id: 4, settings: { ...control().settings, code: 'REC-01', title: 'Rules', owner: '' } }),
  ]
  const wrapper = await place(ControlsPlace, {}, '/readiness/controls')
  await wrapper.get('input[aria-label="Filter the controls"]').setValue('jonas')
  expect(wrapper.text()).toContain('1 control')
})
it('opens the control that an address names by its code', async () => {
  answers['GET /api/controls'] = [control()]
  expect((await place(ControlsPlace, {}, '/readiness/controls?code=ACC-01')).text()).toContain('1 of 2 = 50 %')
})

it('names the findings that are open on a control, with the audit of each', async () => {
  const finding = { auditId: 6, audit: 'Yearly audit', title: 'Plans were deleted', severity: 'major', owner: 'Bo' }
  const wrapper = await place(ControlPane, {
    control: control({ findings: [{ ...finding, action: 'Restore them', due: '2026-07-01' }] }),
  })
  const open = wrapper.get('[aria-label="Open findings"]')
  expect([open.get('p').text(), open.get('a').attributes('href')]).toEqual([
    '▲ major Plans were deleted: Restore them  · Bo, due 1 Jul 2026 · Yearly audit',
    '/readiness/audits?audit=6',
  ])
})
it('says that the proofs of a part are for others', async () => {
  const wrapper = await place(PartLine, { part: part({ kept: true, proofs: [], seenBy: ['legal'] }), control: 3 })
  expect(wrapper.text()).toContain('Only other roles see its proofs.')
})
it('says who sees the proofs of a part', async () => {
  answers['PUT /api/controls/{id}/parts/{part}/readers'] = {}
  const wrapper = await place(PartLine, { part: part({ seenBy: ['legal'] }), control: 3 })
  expect(wrapper.text()).toContain('seen by legal')
  await press('Who sees it')
  await press('Save')
  expect(calls('PUT /api/controls/{id}/parts/{part}/readers')[0]!.body).toEqual({ seenBy: ['legal'] })
})
it('says what to mend first, and how much better any other choice could be', async () => {
  answers['GET /api/readiness/fixes'] = {
    fixes: [
      { control: 'REC-04', title: 'Custodians acknowledge', hours: 2, gain: 0.035, after: 0.579 },
      { control: 'INC-04', title: 'Lessons', hours: 3, gain: 0.03, after: 0.609 },
    ],
    most: 0.081,
  }
  const text = (await place(NextFixes)).text()
  expect(text).toContain('REC-04')
  expect(text).toContain('+6.5 % in 5 hours; no other choice within these hours gains more than 8.1 %.')
})
it('says that nothing fits into the hours', async () => {
  answers['GET /api/readiness/fixes'] = { fixes: [], most: 0.01 }
  expect((await place(NextFixes)).text()).toContain('Nothing that fits into these hours')
})
