import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import OwnedPlace from './OwnedPlace.vue'
import ReviewMessages from './ReviewMessages.vue'
import { reviewSettings } from './testing'

tidyUp()
standIn()
const owned = (more: Partial<Schemas['OwnedView']> = {}) =>
  (answers['GET /api/owned'] = {
    mayReview: true,
    things: [{ id: 'Dock', name: 'The dock', kind: 'group', people: 12, guests: 3, reviewedOn: null }],
    reviews: [],
    ...more,
  } satisfies Schemas['OwnedView'])
beforeEach(() => signedIn())

it('says how many reach what one owns, and when that was last reviewed', async () => {
  owned()
  expect((await place(OwnedPlace)).find('tbody').text()).toBe('The dock group123never')
})
it('opens the number of people into their names, guests marked', async () => {
  owned()
  answers['GET /api/owned/people'] = [
    { id: 'g@x.example', name: 'Gus', kind: 'guest', unit: '' },
    { id: 'a@x.example', name: 'Ann', kind: 'person', unit: 'Northern' },
  ]
  const wrapper = await place(OwnedPlace)
  await press('12')
  expect(wrapper.findAll('.people li').map((l) => l.text())).toEqual(['Gus guest', 'Ann Northern'])
  expect(wrapper.find('.people .lacking').text()).toBe('guest')
})
it('starts a review of what was chosen', async () => {
  owned()
  answers['POST /api/owned/reviews'] = {}
  const wrapper = await place(OwnedPlace)
  await wrapper.find('input[type=checkbox]').setValue(true)
  await press('Start the review')
  expect(calls('POST /api/owned/reviews')[0]!.body).toMatchObject({
    name: 'Who reaches The dock',
    things: ['Dock'],
    people: 'everybody',
    days: 14,
    silence: 'keep',
  })
})
it('offers no review where the organisation does not let owners start one', async () => {
  owned({ mayReview: false })
  const wrapper = await place(OwnedPlace)
  expect([wrapper.find('input[type=checkbox]').exists(), button('Start the review')]).toEqual([false, undefined])
})
it('says why a review was refused and keeps the choice', async () => {
  owned()
  answers['POST /api/owned/reviews'] = new Error('There is nobody to ask about in what you chose.')
  const wrapper = await place(OwnedPlace)
  await wrapper.find('input[type=checkbox]').setValue(true)
  await press('Start the review')
  expect(wrapper.find('[role=alert]').text()).toBe('There is nobody to ask about in what you chose.')
  expect(wrapper.find<HTMLInputElement>('input[type=checkbox]').element.checked).toBe(true)
})
it('leads from a running review to the lines to decide on', async () => {
  const review = {
    id: 3,
    round: 1,
    name: 'The dock',
    startedOn: '2026-06-10',
    endsOn: '2026-06-24',
    endedAt: null,
    lines: 12,
    open: 9,
  }
  owned({ reviews: [{ ...review, removed: 0, link: '/review/abc' }] })
  expect((await place(OwnedPlace)).find('section a').attributes('href')).toBe('/review/abc')
})
it('says so where somebody owns nothing', async () => {
  owned({ things: [] })
  expect((await place(OwnedPlace)).text()).toContain('the owner of no group and no place')
})

it('reads the days of reminders from a list', async () => {
  const wrapper = await place(ReviewMessages, { settings: reviewSettings() })
  await wrapper.find<HTMLInputElement>('#review-reminders').setValue('7, 2 x')
  await wrapper.find('#review-reminders').trigger('change')
  expect(wrapper.emitted<[Schemas['ReviewSettings']]>('change')!.at(-1)![0].reminders).toEqual([7, 2])
})
it('reads who is informed from a list', async () => {
  const wrapper = await place(ReviewMessages, { settings: reviewSettings() })
  await wrapper.find<HTMLInputElement>('#review-informed').setValue('a@x.example; b@x.example')
  await wrapper.find('#review-informed').trigger('change')
  expect(wrapper.emitted<[Schemas['ReviewSettings']]>('change')!.at(-1)![0].informed).toEqual([
    'a@x.example',
    'b@x.example',
  ])
})
