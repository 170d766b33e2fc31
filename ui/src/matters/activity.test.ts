import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import CustodianActivity from './CustodianActivity.vue'
import ReleasedEvents from './ReleasedEvents.vue'

tidyUp()
standIn()
const matter = (more: Partial<Schemas['MatterView']> = {}) =>
  ({
    id: 2,
    part: 'lead',
    custodians: [{ id: 5, name: 'Tobias', mail: 'tobias@x.example' }],
    ...more,
  }) as unknown as Schemas['MatterView']
const found = (events = 3): Schemas['ActivityFound'] => ({
  events,
  byCustodian: [
    {
      id: 5,
      name: 'Tobias',
      events,
      first: '2026-06-12T08:00:00Z',
      last: '2026-06-13T08:00:00Z',
      question: 'actor == "tobias@x.example"',
    },
  ],
  question: 'actor == "tobias@x.example"',
})
beforeEach(() => {
  signedIn('readActivity')
  answers['GET /api/matters/{id}/investigations'] = []
  answers['POST /api/matters/{id}/activity'] = found()
})

it('counts what each custodian did', async () => {
  const wrapper = await place(CustodianActivity, { matter: matter() })
  await press('Count')
  expect(wrapper.find('tbody').text()).toContain('Tobias3')
})
it('opens a count into the events of that person', async () => {
  const wrapper = await place(CustodianActivity, { matter: matter() })
  await press('Count')
  expect(decodeURIComponent(wrapper.find('tbody a').attributes('href')!.replaceAll('+', ' '))).toContain(
    'actor == "tobias@x.example"',
  )
})
it('keeps what was counted under a name', async () => {
  answers['POST /api/matters/{id}/activity/investigations'] = {}
  await place(CustodianActivity, { matter: matter() })
  await press('Count')
  await type('[aria-label="Name of what is kept"]', 'What Tobias did')
  await press('Keep 3 events as they are')
  expect(calls('POST /api/matters/{id}/activity/investigations')[0]!.body).toMatchObject({ name: 'What Tobias did' })
})
it('does not keep another question than the one that was counted', async () => {
  await place(CustodianActivity, { matter: matter() })
  await press('Count')
  await type('[aria-label="Words or query"]', 'action = file.read')
  expect(button('Keep 3 events as they are')).toBeUndefined()
})
it('lets a reader count and not keep', async () => {
  await place(CustodianActivity, { matter: matter({ part: 'reader' }) })
  await press('Count')
  expect(button('Keep 3 events as they are')).toBeUndefined()
})
it('offers no sweep to a member who may not read activity', async () => {
  signedIn()
  const wrapper = await place(CustodianActivity, { matter: matter() })
  expect([wrapper.text().includes('A member who may read activity'), button('Count')]).toEqual([true, undefined])
})
it('lists what the matter keeps', async () => {
  answers['GET /api/matters/{id}/investigations'] = [
    { id: 9, name: 'The night', summary: '', by: 'Sunniva', events: 12, frozenAt: '2026-06-14T08:00:00Z' },
  ]
  expect((await place(CustodianActivity, { matter: matter() })).find('ul').text()).toContain(
    'The night, 12 events, by Sunniva, frozen 14 Jun 2026',
  )
})

const release = (channels: string[]) => ({
  matter: 2,
  order: { id: 4, revision: 1, inForce: { channels } } as unknown as Schemas['OrderView'],
  narrowed: null,
  delay: 30,
})
it('counts the events that a release lets go, those kept by other orders and those past their time', async () => {
  answers['POST /api/matters/{id}/orders/{order}/releases/events'] = {
    events: 9,
    stayHeld: 4,
    pastTime: 2,
    question: '(channel == "gateway")',
  }
  const wrapper = await place(ReleasedEvents, release(['gateway']))
  expect([wrapper.text().includes('9 events'), wrapper.find('.lacking').text()]).toEqual([true, '2'])
})
it('asks nothing where an order keeps no channel', async () => {
  await place(ReleasedEvents, release([]))
  expect(calls('POST /api/matters/{id}/orders/{order}/releases/events').length).toBe(0)
})
