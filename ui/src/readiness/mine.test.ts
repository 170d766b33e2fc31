import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import MyEvidence from './MyEvidence.vue'

tidyUp()
standIn()
beforeEach(() => signedIn())

const part = (more: Partial<Schemas['PartView']> = {}): Schemas['PartView'] => ({
  id: 5,
  kind: 'routine',
  title: 'Look at the list',
  weight: 1,
  measure: '',
  expected: 100,
  period: 'P30D',
  recurrence: 'FREQ=MONTHLY',
  first: null,
  needsReview: false,
  toApprove: null,
  doer: 'pia@x.example',
  deputy: '',
  counts: false,
  endsOn: null,
  due: '2026-06-01',
  seenBy: [],
  kept: false,
  mayBring: true,
  proofs: [],
  ...more,
})
const mine = (more: Partial<Schemas['MyEvidenceView']> = {}) => {
  answers['GET /api/evidence/mine'] = { parts: [], requests: [], actions: [], ...more }
  return place(MyEvidence)
}
const of = (p: Schemas['PartView']) => ({
  controlId: 3,
  control: 'ACC-01',
  controlTitle: 'Second factor',
  revision: 4,
  part: p,
})

describe('what somebody has to do with readiness', () => {
  it('says so where it is nothing', async () => {
    expect((await mine()).text()).toContain('no control and no audit names you')
  })
  it('is done in place', async () => {
    answers['POST /api/control-parts/{id}/done'] = {}
    await mine({ parts: [of(part())] })
    await press('Mark as done')
    await type('[aria-label="Proof"]', 'Looked through it.')
    await press('Save')
    expect(calls('POST /api/control-parts/{id}/done')[0]!.body).toEqual({ text: 'Looked through it.' })
  })
  it('is only read where it is kept for a role', async () => {
    await mine({ parts: [of(part({ mayBring: false, seenBy: ['legal'] }))] })
    expect(button('Mark as done')).toBeUndefined()
  })
  it('names what audits ask for and what was said of it', async () => {
    const wrapper = await mine({
      requests: [
        {
          auditId: 4,
          audit: 'Yearly',
          number: 2,
          what: 'The schedule',
          due: '2026-06-01',
          state: 'returned',
          remarks: [{ at: '2026-06-02T08:00:00Z', by: 'Hilde', text: 'Page 3 is missing.' }],
        },
      ],
    })
    const asked = wrapper.get('[aria-label="Asked for in audits"]')
    expect(asked.text()).toContain('2. The schedule')
    expect(asked.text()).toContain('Page 3 is missing.')
    expect(asked.findAll('.lacking')).toHaveLength(2)
  })
  it('names what is to be done after audits', async () => {
    const wrapper = await mine({
      actions: [
        {
          auditId: 4,
          findingId: 9,
          response: '',
          owner: '',
          audit: 'Yearly',
          finding: 'Two without',
          severity: 'major',
          action: 'Give them one',
          due: null,
        },
      ],
    })
    expect(wrapper.get('[aria-label="To do after audits"] article').text()).toContain(
      'Give them one On “Two without” (major), Yearly',
    )
  })
})
