import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import AlertPane from './AlertPane.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readActivity', 'manageWatches', 'readAccess'))

const alert = (more: Partial<Schemas['AlertView']> = {}): Schemas['AlertView'] => ({
  id: 5,
  watchId: 2,
  watch: 'Many deletions',
  at: '2026-06-14T22:10:00Z',
  who: 'nils@a.example',
  address: '203.0.113.7',
  object: null,
  why: 'nils@a.example deleted 49 files in 10 minutes.',
  severity: 'high',
  risk: 71,
  state: 'new',
  reason: '',
  useful: null,
  owner: null,
  count: 1,
  caseId: 5,
  inCase: 1,
  capped: false,
  withdrawn: false,
  repeats: false,
  revision: 3,
  ...more,
})
const pane = (more: Partial<Schemas['AlertDetail']> = {}) => {
  answers['GET /api/alerts/{id}'] = {
    alert: alert(),
    watch: { id: 2, settings: { rule: { kind: 'each', where: 'action = delete' } } },
    factors: [],
    events: [],
    baseline: null,
    case: [],
    acts: [],
    possible: [{ act: 'suspend', words: 'suspend the account', says: 'Nils can no longer sign in.' }],
    ...more,
  }
  return place(AlertPane, { id: 5 })
}

describe('an alert', () => {
  it('says what happened and who did it before anything else', async () => {
    const wrapper = await pane()
    expect(wrapper.get('h1').text()).toBe('Many deletions: nils@a.example')
    expect(wrapper.get('.why').text()).toContain('49 files in 10 minutes')
  })
  it('leads to what the same person did and reaches', async () => {
    const wrapper = await pane()
    const links = wrapper.findAll('a').map((a) => a.attributes('href'))
    expect(links.some((l) => l?.startsWith('/access?person=nils'))).toBe(true)
  })
  it('lets an account be suspended first, and looked after', async () => {
    answers['POST /api/alerts/{id}/acts'] = {}
    await pane()
    await press('Suspend the account')
    expect(calls('POST /api/alerts/{id}/acts')[0]!.body).toEqual({ act: 'suspend' })
  })
  it('offers no act to whoever may only read', async () => {
    signedIn('readActivity')
    await pane()
    expect(button('Suspend the account')).toBeUndefined()
  })
  it('says why an act was refused', async () => {
    answers['POST /api/alerts/{id}/acts'] = new Error('The directory did not answer.')
    const wrapper = await pane()
    await press('Suspend the account')
    expect(wrapper.get('[role=alert]').text()).toBe('The directory did not answer.')
  })
  it('takes an act back that can be taken back', async () => {
    answers['POST /api/alerts/{id}/acts/{act}/undo'] = {}
    await pane({
      acts: [
        {
          id: 8,
          words: 'suspended the account',
          at: '2026-06-14T22:20:00Z',
          by: 'Sunniva Krag',
          verified: true,
          failure: null,
          undoneAt: null,
          undoable: true,
          waits: false,
          decidedBy: null,
          mayNotDecide: null,
        },
      ],
    })
    await press('Undo')
    expect(calls('POST /api/alerts/{id}/acts/{act}/undo')).toHaveLength(1)
  })
})
