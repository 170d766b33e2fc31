import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import AuditRequestLine from './AuditRequestLine.vue'
import GaugePane from './GaugePane.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readReadiness', 'manageReadiness'))

describe('a gauge', () => {
  const subject = (n: number, right: boolean): Schemas['MeasuredSubject'] => ({
    id: `p${n}`,
    name: `Person ${n}`,
    unit: 'Fleet',
    right,
    why: right ? 'has a second factor' : 'has no second factor',
    link: '',
  })
  const detail = (subjects: Schemas['MeasuredSubject'][], more: Partial<Schemas['GaugeDetail']> = {}) => {
    const right = subjects.filter((s) => s.right).length
    answers['GET /api/gauges/{id}'] = {
      gauge: {
        id: 4,
        settings: { name: 'Second factor', measure: 'second-factor', target: 100, warning: 95, alarm: 80 },
        says: 'People with a second factor',
        right,
        of: subjects.length,
        excluded: 0,
        percent: Math.round((right / subjects.length) * 100),
        state: 'alarm',
        trend: [],
        revision: 2,
      },
      subjects,
      exclusions: [],
      units: [{ unit: 'Fleet', right, of: subjects.length }],
      ...more,
    } satisfies Schemas['GaugeDetail']
    return place(GaugePane, { id: 4 })
  }
  it('shows the division that its figure comes from', async () => {
    const wrapper = await detail([subject(1, true), subject(2, false)])
    expect(wrapper.text()).toContain('1 ÷ 2 = 50 %; the target is 100 %.')
  })
  it('opens into those who lack, each with why', async () => {
    const wrapper = await detail([subject(1, true), subject(2, false)])
    expect(wrapper.get('tbody tr').text()).toContain('Person 2')
    expect(wrapper.get('tbody tr').text()).toContain('has no second factor')
  })
  it('passes one over with a reason and a last day', async () => {
    answers['POST /api/gauges/{id}/exclusions'] = {}
    const wrapper = await detail([subject(2, false)])
    await press('Pass over')
    await wrapper.get('.exclude .el-input input').setValue('An emergency account')
    await wrapper.get('.exclude input[type=date]').setValue('2026-12-31')
    await press('Pass over Person 2')
    expect(calls('POST /api/gauges/{id}/exclusions')[0]!.body).toEqual({
      subject: 'p2',
      reason: 'An emergency account',
      endsOn: '2026-12-31',
    })
  })
  it('keeps the reason in place where the server refuses it', async () => {
    answers['POST /api/gauges/{id}/exclusions'] = new Error('Say why.')
    const wrapper = await detail([subject(2, false)])
    await press('Pass over')
    await press('Pass over Person 2')
    expect(wrapper.get('[role=alert]').text()).toBe('Say why.')
    expect(wrapper.find('.exclude').exists()).toBe(true)
  })
  it('is only looked at by whoever may not manage it', async () => {
    signedIn('readReadiness')
    await detail([subject(2, false)])
    expect(button('Pass over')).toBeUndefined()
  })
  it('says so where nothing is missing', async () => {
    const wrapper = await detail([subject(1, true)])
    expect(wrapper.text()).toContain('✓ Nothing is missing.')
  })
  it('counts all that are missing and shows sixty first', async () => {
    const wrapper = await detail(Array.from({ length: 70 }, (_, i) => subject(i, false)))
    expect(wrapper.get('thead th').text()).toBe('Missing: 70')
    expect(wrapper.findAll('tbody tr')).toHaveLength(60)
  })
})

describe('a request of an audit', () => {
  const request = (state: Schemas['RequestState'], more: Partial<Schemas['RequestView']> = {}) => ({
    id: 9,
    number: 3,
    what: 'The register of leavers',
    requirement: 'PR.AA-01',
    owner: 'Maren Holt',
    due: '2026-06-30',
    state,
    offered: [],
    remarks: [],
    ...more,
  })
  const line = (r: Schemas['RequestView'], mine: boolean, closedAt: string | null = null) =>
    place(AuditRequestLine, { audit: { id: 2, mine, closedAt } as Schemas['AuditView'], request: r })

  it('is accepted or returned by the auditor alone, once it is ready', async () => {
    await line(request('ready'), true)
    expect([button('Accept'), button('Return with comment')].every(Boolean)).toBe(true)
  })
  it('cannot be accepted before it is ready', async () => {
    await line(request('open' as Schemas['RequestState']), true)
    expect(button('Accept')).toBeUndefined()
  })
  it('cannot be accepted by those who are audited', async () => {
    await line(request('ready'), false)
    expect(button('Accept')).toBeUndefined()
  })
  it('goes back with what was typed', async () => {
    answers['POST /api/audits/{id}/requests/{number}/state'] = {}
    const wrapper = await line(request('ready'), true)
    await wrapper.get('.acts input').setValue('The last quarter is missing')
    await press('Return with comment')
    expect(calls('POST /api/audits/{id}/requests/{number}/state')[0]!.body).toEqual({
      state: 'returned',
      remark: 'The last quarter is missing',
    })
  })
  it('keeps what was typed where the server refuses', async () => {
    answers['POST /api/audits/{id}/requests/{number}/remarks'] = new Error('The audit is closed.')
    const wrapper = await line(request('ready'), true)
    await wrapper.get('.acts input').setValue('A question')
    await press('Add comment')
    expect((wrapper.get('.acts input').element as HTMLInputElement).value).toBe('A question')
  })
  it('marks a day that is past, but not once it is accepted', async () => {
    const late = await line(request('ready', { due: '2026-06-01' }), false)
    expect(late.find('.lacking').exists()).toBe(true)
    const done = await line(request('accepted', { due: '2026-06-01' }), false)
    expect(done.find('.small .lacking').exists()).toBe(false)
  })
  it('takes no more acts once the audit is closed', async () => {
    const wrapper = await line(request('ready'), true, '2026-06-14T08:00:00Z')
    expect(wrapper.find('.acts').exists()).toBe(false)
  })
})
