import { beforeEach, expect, it } from 'vitest'
import { answers, calls, place, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import SchedulePlace from './SchedulePlace.vue'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('readSchedule', 'writeSchedule')
  answers['GET /api/series'] = {
    series: [],
    next: null,
    total: 0,
    figures: { all: 12, active: 9, draft: 2, due: 3, waiting: 1, retired: 4 },
  }
})

it('shows how many series each choice holds', async () => {
  const wrapper = await place(SchedulePlace)
  expect(wrapper.findAll('.chip').map((c) => c.text())).toEqual([
    'All 12',
    'Active 9',
    'With a draft 2',
    'Due now 3',
    'Waiting 1',
    'Retired 4',
  ])
})
it('asks the server for what was chosen', async () => {
  const wrapper = await place(SchedulePlace)
  await wrapper.findAll('.chip')[3]!.trigger('click')
  await new Promise((done) => setTimeout(done))
  expect(calls('GET /api/series').at(-1)).toMatchObject({ params: { query: { show: 'due' } } })
})
it('asks the server for the words that were typed', async () => {
  await place(SchedulePlace)
  await type('[aria-label="Filter the series"]', 'voyage')
  await expect.poll(() => calls('GET /api/series').at(-1)).toMatchObject({ params: { query: { words: 'voyage' } } })
})
