import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import ReviewPane from './ReviewPane.vue'
import { reviewSettings } from './testing'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('readAccess', 'manageAccess')
  answers['POST /api/reviews/consequences'] = consequences()
})

const load = (more = {}) => ({
  stage: 1,
  reviewer: 'ines@x.example',
  name: 'Ines',
  lines: 30,
  hours: 0.08,
  hasAccount: true,
  ...more,
})
const consequences = (...reviewers: object[]) => ({
  lines: 30,
  adviseRemoval: 4,
  silenceRemoves: 2,
  leftOut: ['1 consent of other applications.'],
  reviewers: reviewers.length ? reviewers : [load()],
})
const review = (more = {}) => ({ id: 7, revision: 3, state: 'draft', settings: reviewSettings(), rounds: [], ...more })

it('says how many lines whom would be asked, and how long it would take', async () => {
  const text = (await place(ReviewPane, { view: review() })).text()
  expect(text).toContain('30 lines for 1 reviewer')
  expect(text).toContain('silence would remove 2')
  expect(text).toContain('5 min')
})
it('says what a draft leaves out', async () => {
  expect((await place(ReviewPane, { view: review() })).text()).toContain('1 consent of other applications.')
})
it('names the stages of a draft that has several, and counts each reviewer once', async () => {
  answers['POST /api/reviews/consequences'] = consequences(load(), load({ stage: 2 }))
  const later: Schemas['ReviewStage'][] = [{ reviewer: 'manager', named: [], days: 7, seesFormer: true }]
  const wrapper = await place(ReviewPane, { view: review({ settings: reviewSettings({ later }) }) })
  expect(wrapper.findAll('tbody tr').map((r) => r.findAll('td')[0]!.text())).toEqual(['1', '2'])
  expect(wrapper.text()).toContain('for 1 reviewer;')
})
it('says who has no account', async () => {
  answers['POST /api/reviews/consequences'] = consequences(load({ hasAccount: false }))
  expect((await place(ReviewPane, { view: review() })).text()).toContain('answers by the link of the message')
})
it('asks for no consequences of a draft that names nothing', async () => {
  await place(ReviewPane, { draft: reviewSettings({ groups: [] }) })
  expect(calls('POST /api/reviews/consequences')).toHaveLength(0)
})
it('keeps a new draft', async () => {
  answers['POST /api/reviews'] = {}
  const wrapper = await place(ReviewPane, { draft: reviewSettings() })
  await press('Save draft')
  expect(calls('POST /api/reviews')[0]!.body).toMatchObject({ name: 'Guests', groups: ['Dock'] })
  expect(wrapper.emitted('made')).toEqual([['Guests']])
})
it('starts no round while something is changed', async () => {
  await place(ReviewPane, { view: review() })
  await type('#review-name', 'Guests of the dock')
  expect(button('Ask about 30 lines')!.disabled).toBe(true)
})
it('changes a review by the revision that was read', async () => {
  answers['PUT /api/reviews/{id}'] = {}
  await place(ReviewPane, { view: review() })
  await type('#review-name', 'Guests of the dock')
  await press('Save the review')
  expect(calls('PUT /api/reviews/{id}')[0]!.headers).toEqual({ 'If-Match': '"3"' })
})
it('starts a round with the number of its lines on the button', async () => {
  answers['POST /api/reviews/{id}/rounds'] = {}
  await place(ReviewPane, { view: review() })
  await press('Ask about 30 lines')
  expect(calls('POST /api/reviews/{id}/rounds')).toHaveLength(1)
})
it('shows the words of a refusal', async () => {
  answers['POST /api/reviews/consequences'] = new Error('“Dock” is no group.')
  expect((await place(ReviewPane, { view: review() })).get('[role=alert]').text()).toBe('“Dock” is no group.')
})
it('offers no acts to somebody who only reads', async () => {
  signedIn('readAccess')
  await place(ReviewPane, { view: review() })
  expect(button('Save the review')).toBeUndefined()
  expect(button('Start a round')).toBeUndefined()
})
