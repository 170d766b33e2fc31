import { beforeEach, expect, it } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import BacktestPanel from './BacktestPanel.vue'
import ChannelForm from './ChannelForm.vue'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('readActivity', 'manageChannels')
  sessionStorage.clear()
})

const rule = { kind: 'count', threshold: 10 }
const tried = (more = {}) =>
  (answers['POST /api/watches/backtest'] = {
    raised: 3,
    counted: 1_200,
    perWeek: 0.25,
    days: [
      { day: '2026-06-01', alerts: 2 },
      { day: '2026-06-04', alerts: 1 },
    ],
    alerts: [{ at: '2026-06-04T08:00:00Z', key: 'ann@x.example', why: 'Ten deletions', eventRow: 77 }],
    curve: [
      { threshold: 5, perWeek: 9 },
      { threshold: 10, perWeek: 0.25 },
      { threshold: 20, perWeek: 0 },
    ],
    mark: 10,
    ...more,
  })

it('says how many alerts there would have been, and how many a week', async () => {
  tried()
  expect((await place(BacktestPanel, { rule })).text().replace(/\s+/g, ' ')).toContain(
    '3 alerts from 1,200 events that count: 0.25 a week.',
  )
})
it('draws a column for every day, those without an alert too', async () => {
  tried()
  expect((await place(BacktestPanel, { rule })).findAll('.columns span')).toHaveLength(4)
})
it('opens the event of an alert', async () => {
  tried()
  const wrapper = await place(BacktestPanel, { rule })
  expect(wrapper.get('tbody a').attributes('href')).toBe('/activity/search?days=all&event=77')
})
it('says what the present threshold brings', async () => {
  tried()
  expect((await place(BacktestPanel, { rule })).text()).toContain('now 10: 0.25 a week')
})
it('says the curve in words to who cannot see it', async () => {
  tried()
  expect((await place(BacktestPanel, { rule })).get('svg').attributes('aria-label')).toBe(
    '9 a week at 5 to 0 a week at 20',
  )
})
it('moves no threshold where a rule has none', async () => {
  tried()
  expect(
    (await place(BacktestPanel, { rule: { kind: 'unusual', sensitivity: 'low' } })).find('.el-slider').exists(),
  ).toBe(false)
})
it('says that only the latest are listed', async () => {
  tried({ raised: 1_000 })
  expect((await place(BacktestPanel, { rule })).text()).toContain('The latest 40 of 1,000.')
})

it('connects a log by what it is named and how it comes', async () => {
  answers['POST /api/channels'] = {}
  const wrapper = await place(ChannelForm)
  await type('#c-title', 'Yard doors')
  await type('#c-name', 'yard-doors')
  await press('Connect it')
  expect(calls('POST /api/channels')[0]!.body).toMatchObject({
    name: 'yard-doors',
    feed: 'http',
    settings: { title: 'Yard doors', format: 'json', retention: 'P2Y', admits: { include: null, except: null } },
  })
  expect(wrapper.emitted('close')).toHaveLength(1)
})
it('keeps what was typed where the log is not connected', async () => {
  const wrapper = await place(ChannelForm)
  await type('#c-title', 'Yard doors')
  wrapper.unmount()
  await place(ChannelForm)
  expect(document.body.querySelector<HTMLInputElement>('#c-title')!.value).toBe('Yard doors')
})
it('changes a channel with what it has', async () => {
  answers['PUT /api/channels/{id}'] = {}
  const settings = {
    title: 'Doors',
    format: 'json',
    retention: 'P1Y',
    daysAtHand: 90,
    latenessHours: 2,
    openToAnalysts: true,
    readers: [],
    admits: { reads: true, writes: true, include: 'actor = ann', except: null, categories: [] },
    mapping: null,
    folder: '',
    port: 0,
    certificateFile: '',
    connected: true,
  }
  await place(ChannelForm, { channel: { id: 4, name: 'doors', feed: 'http', revision: 7, settings } })
  await press('Change the channel')
  expect(calls('PUT /api/channels/{id}')[0]!.body).toEqual(settings)
})
