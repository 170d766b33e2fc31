import { beforeEach, expect, it } from 'vitest'
import { flushPromises } from '@vue/test-utils'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import AuditFindings from './AuditFindings.vue'
import AuditForm from './AuditForm.vue'
import AuditRoom from './AuditRoom.vue'
import AuditTimeline from './AuditTimeline.vue'
import ComingAudits from './ComingAudits.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readReadiness', 'manageReadiness'))

const audit = (more: Partial<Schemas['AuditView']> = {}): Schemas['AuditView'] => ({
  id: 6,
  settings: {
    name: 'Yearly audit',
    framework: 'own',
    auditor: 'h@auditors.example',
    periodFrom: '2025-06-15',
    periodThrough: '2026-06-15',
    startsOn: '2026-07-20',
    endsOn: '2026-08-03',
  },
  frameworkTitle: 'Safety-records standard',
  closedAt: null,
  mine: false,
  requests: [],
  samples: [],
  findings: [],
  populations: [],
  revision: 2,
  ...more,
})
it('plans an audit', async () => {
  answers['GET /api/readiness'] = { mean: null, frameworks: [], areas: [] }
  answers['POST /api/audits'] = {}
  const wrapper = await place(AuditForm)
  await type('#a-name', 'Interim look')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/audits')[0]!.body).toMatchObject({ name: 'Interim look', startsOn: '2026-06-15' })
})
it('moves the days of an audit by the revision that was read', async () => {
  answers['PUT /api/audits/{id}'] = {}
  answers['GET /api/audits/{id}'] = audit()
  const wrapper = await place(AuditRoom, { audit: audit() })
  await press('Edit the plan')
  await type('[aria-label="Open until"]', '2026-08-10')
  await wrapper.get('form.grid').trigger('submit')
  await flushPromises()
  const call = calls('PUT /api/audits/{id}')[0]!
  expect(call.headers).toEqual({ 'If-Match': '"2"' })
  expect(call.body).toMatchObject({ framework: 'own', endsOn: '2026-08-10' })
})
it('asks for something with the day of the room as its day', async () => {
  answers['GET /api/audits/{id}'] = audit()
  answers['POST /api/audits/{id}/requests'] = {}
  const wrapper = await place(AuditRoom, { audit: audit() })
  await type('[aria-label="What is asked for"]', 'The schedule')
  await wrapper.get('form.ask').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/audits/{id}/requests')[0]!.body).toMatchObject({ what: 'The schedule', due: '2026-07-20' })
})
it('names the investigation that a finding rests on, with its file in the room', async () => {
  answers['GET /api/investigations'] = []
  const finding = { id: 9, title: 'Plans were deleted', severity: 'major', control: '', action: '', owner: '' }
  const attached = { id: 3, name: 'Pier 4', summary: '', by: 'Runa Vik', events: 2, frozenAt: '2026-06-15T08:00:00Z' }
  const wrapper = await place(AuditFindings, {
    audit: audit({
      findings: [{ ...finding, due: null, doneOn: null, changes: [], investigations: [attached] }] as never,
    }),
    mayFind: false,
  })
  expect(wrapper.get('[aria-label="Investigations"] a').attributes('href')).toBe(
    '/api/audits/6/findings/9/investigations/3/file',
  )
})
const finding = (more: Partial<Schemas['FindingView']> = {}): Schemas['FindingView'] => ({
  id: 9,
  title: 'Two without a factor',
  severity: 'major',
  control: '',
  foundBy: 'Halvor Tind',
  response: '',
  action: '',
  owner: '',
  due: null,
  doneOn: null,
  verifiedAt: null,
  verifiedBy: '',
  mayWord: false,
  mayVerify: false,
  investigations: [],
  changes: [],
  ...more,
})
it('lets the organisation answer a finding and not change its words', async () => {
  answers['GET /api/investigations'] = []
  answers['PUT /api/audits/{id}/findings/{finding}/response'] = {}
  await place(AuditFindings, { audit: audit({ findings: [finding()] }), mayFind: false })
  expect(button('Edit')).toBeUndefined()
  await press('Respond')
  await type('[aria-label="Response"]', 'They are new')
  await press('Done: ask for verification')
  expect(calls('PUT /api/audits/{id}/findings/{finding}/response')[0]!.body).toMatchObject({
    response: 'They are new',
    done: true,
  })
})
it('verifies a finding that is done', async () => {
  answers['GET /api/investigations'] = []
  answers['POST /api/audits/{id}/findings/{finding}/verification'] = {}
  await place(AuditFindings, {
    audit: audit({ findings: [finding({ doneOn: '2026-06-20', mayVerify: true })] }),
    mayFind: true,
  })
  await press('Verify and close')
  expect(calls('POST /api/audits/{id}/findings/{finding}/verification')[0]!.body).toEqual({
    verified: true,
    remark: '',
  })
})
it('shows the history of a finding', async () => {
  answers['GET /api/investigations'] = []
  const changes = [{ at: '2026-06-15T08:00:00Z', by: 'Halvor Tind', field: 'title', before: 'One', after: 'Two' }]
  const wrapper = await place(AuditFindings, { audit: audit({ findings: [finding({ changes })] }), mayFind: false })
  expect(wrapper.get('details').text()).toContain('title: One → Two')
})
it('asks for nothing more in a room that is closed', async () => {
  answers['GET /api/audits/{id}'] = audit()
  const wrapper = await place(AuditRoom, { audit: audit({ closedAt: '2026-08-04T08:00:00Z' }) })
  expect(wrapper.find('form.ask').exists()).toBe(false)
  expect(button('Close the audit')).toBeUndefined()
})
it('shows the audits to come, the nearest first, with what is still to be brought', async () => {
  const request = (state: string) => ({ id: 1, state })
  answers['GET /api/audits'] = [
    audit({ requests: [request('open'), request('accepted'), request('returned')] as never }),
    audit({ id: 7, settings: { ...audit().settings, name: 'Interim', startsOn: '2026-06-01', endsOn: '2026-06-20' } }),
    audit({ id: 8, settings: { ...audit().settings, name: 'Past', endsOn: '2026-06-14' } }),
  ]
  const wrapper = await place(ComingAudits)
  expect(wrapper.findAll('a').map((a) => a.text())).toEqual(['Interim', 'Yearly audit'])
  expect(wrapper.text()).toContain('open until 20 Jun 2026')
  expect(wrapper.text()).toContain(
    'opens in 35 days, on 20 Jul 2026; 2 of 3 requests still to be brought, ▲ 1 returned',
  )
})
it('draws the audits in time, with what is due and what is late', async () => {
  const request = { id: 1, number: 1, what: 'The schedule', requirement: null, owner: '', offered: [], remarks: [] }
  const wrapper = await place(AuditTimeline, {
    audits: [
      audit({
        requests: [
          { ...request, due: '2026-06-01', state: 'open' },
          { ...request, id: 2, number: 2, what: 'The ledger', due: '2026-07-01', state: 'accepted' },
        ] as never,
      }),
    ],
  })
  expect(wrapper.findAll('.mark').map((m) => [m.text(), m.attributes('title')])).toEqual([
    ['▲', 'Due on 1 Jun 2026: request 1, The schedule'],
    ['✓', 'Due on 1 Jul 2026: request 2, The ledger, settled'],
  ])
  await wrapper.get('.name').trigger('click')
  expect(wrapper.emitted('choose')).toEqual([[6]])
})
it('says that no audit is planned', async () => {
  answers['GET /api/audits'] = []
  expect((await place(ComingAudits)).text()).toContain('None is planned.')
})
