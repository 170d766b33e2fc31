import { beforeEach, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import ReviewRound from './ReviewRound.vue'
import ReviewSentence from './ReviewSentence.vue'
import ReviewStages from './ReviewStages.vue'
import { reviewSettings } from './testing'

tidyUp()
standIn()
beforeEach(() => signedIn('readAccess', 'manageAccess'))

const settings = (more: Partial<Schemas['ReviewSettings']> = {}) =>
  reviewSettings({ recurrence: 'FREQ=MONTHLY;INTERVAL=3', ...more })
const round = (more: Partial<Schemas['RoundView']> = {}): Schemas['RoundView'] => ({
  id: 1,
  number: 1,
  stage: 1,
  startedOn: '2026-06-15',
  endsOn: '2026-06-25',
  endedAt: null,
  lines: 2,
  open: 1,
  kept: 0,
  removed: 1,
  applied: 0,
  failed: 0,
  stamped: [],
  reportHash: '',
  addenda: [],
  ...more,
})
const line = (more: Partial<Schemas['ReviewLineView']> = {}): Schemas['ReviewLineView'] => ({
  id: 1,
  person: 'gus@yard.example',
  personName: 'Gus',
  what: 'Dock',
  whatName: 'Dock',
  roles: 'member',
  path: ['Gus', 'Dock'],
  reviewer: 'ines@x.example',
  adviseRemoval: true,
  grounds: ['No sign-in is known.'],
  decision: 'open',
  reason: '',
  decidedBy: '',
  bySilence: false,
  applied: false,
  failure: null,
  attempts: 0,
  meanwhile: null,
  former: [],
  ...more,
})
const stage = (more: Partial<Schemas['ReviewStage']> = {}): Schemas['ReviewStage'] => ({
  reviewer: 'manager',
  named: [],
  days: 7,
  seesFormer: true,
  ...more,
})
async function shown(more: Partial<Schemas['RoundView']> = {}, lines = [line()], later: Schemas['ReviewStage'][] = []) {
  answers['GET /api/reviews/{id}/rounds/{number}'] = {
    round: round(more),
    reviewers: [{ mail: 'ines@x.example', name: 'Ines', lines: 2, open: 1, remindedAt: null }],
    lines,
  }
  const review = {
    id: 4,
    settings: settings({ later }),
    state: 'running',
    owner: 'Mikkel',
    nextOn: null,
    rounds: [],
    revision: 1,
  } as Schemas['ReviewView']
  return place(ReviewRound, { review, number: 1 })
}

it('says a review as one sentence', async () => {
  answers['GET /api/access/entries'] = [{ id: 'Dock', name: 'Dry dock', kind: 'group' }]
  const wrapper = await place(ReviewSentence, { settings: settings() })
  expect(wrapper.text().replace(/\s+/g, ' ')).toBe(
    'Every quarter from 15 Jun 2026, ask the owners (deputy: the unit’s steward) to confirm every guest in Dry dock ' +
      'within 10 days, each with a reason; afterwards ask nobody else; if nobody answers, follow the advice; then wait ' +
      'for my confirmation.',
  )
})
it('says who is asked afterwards', async () => {
  const wrapper = await place(ReviewStages, {
    stages: [stage(), stage({ reviewer: 'named', named: ['ann@x.example'], days: 1 })],
    open: null,
  })
  expect(wrapper.text()).toContain('for 7 days, then ann@x.example for 1 day')
})
it('adds a stage that sees what was answered before', async () => {
  const wrapper = await place(ReviewStages, { stages: [], open: 'stages', editable: true })
  await press('Ask somebody else afterwards')
  expect(wrapper.emitted('change')![0]).toEqual([[stage()]])
})
it('leaves a stage out', async () => {
  const wrapper = await place(ReviewStages, { stages: [stage(), stage({ days: 3 })], open: 'stages', editable: true })
  await press('Leave it out')
  expect(wrapper.emitted('change')![0]).toEqual([[stage()]])
})
it('says which stage runs', async () => {
  expect((await shown({ stage: 2 }, [line()], [stage()])).get('h2').text()).toContain('stage 2 of 2')
})
it('goes on to the next stage', async () => {
  await shown({}, [line()], [stage()])
  await press('Start the next stage')
  expect(calls('POST /api/reviews/{id}/rounds/{number}/next-stage')).toHaveLength(1)
})
it('offers no further stage in the last one', async () => {
  await shown({ stage: 2 }, [line()], [stage()])
  expect(button('Start the next stage')).toBeUndefined()
})
it('shows what the stages before said', async () => {
  const former = [{ reviewer: 'ines@x.example', decision: 'keep' as const, reason: 'Works here' }]
  expect((await shown({ stage: 2 }, [line({ former })], [stage()])).text()).toContain(
    'Stage 1: ines@x.example said keep “Works here”',
  )
})
it('reminds the silent', async () => {
  await shown()
  await press('Send reminders')
  expect(calls('POST /api/reviews/{id}/rounds/{number}/reminders')).toHaveLength(1)
})
it('names whoever stamped', async () => {
  expect((await shown({ stamped: ['ines@x.example'] })).text()).toContain('Ines kept everything in less than')
})
it('carries out what was removed and not seen yet', async () => {
  await shown({ endedAt: '2026-06-26T08:00:00Z', removed: 3, applied: 1 })
  await press('Carry out 2 removals')
  expect(calls('POST /api/reviews/{id}/rounds/{number}/carrying-out')).toHaveLength(1)
})
it('says why a removal was not carried out', async () => {
  const failed = line({ decision: 'remove', failure: 'The directory does not answer.' })
  expect((await shown({ endedAt: '2026-06-26T08:00:00Z', failed: 1 }, [failed])).text()).toContain(
    '▲ The directory does not answer.',
  )
})
it('says how often a removal was asked for in vain', async () => {
  const failed = line({ decision: 'remove', failure: 'The directory does not answer.', attempts: 3 })
  expect((await shown({ endedAt: '2026-06-26T08:00:00Z', failed: 1 }, [failed])).text()).toContain('Asked 3 times.')
})
it('offers no act to those who only read', async () => {
  signedIn('readAccess')
  await shown()
  expect(button('End the round')).toBeUndefined()
})
