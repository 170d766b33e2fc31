import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import GaugeForm from './GaugeForm.vue'
import OwnMeasures from './OwnMeasures.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readReadiness', 'manageReadiness'))

const gauge: Schemas['GaugeView'] = {
  id: 4,
  settings: { name: 'Second factor', measure: 'second-factor', target: 100, warning: 95, alarm: 80 },
  says: '',
  right: 1,
  of: 2,
  excluded: 0,
  percent: 50,
  state: 'alarm',
  trend: [],
  revision: 2,
}

describe('the settings of a gauge', () => {
  it('are changed in place, against the revision that was seen', async () => {
    answers['PUT /api/gauges/{id}'] = {}
    const wrapper = await place(GaugeForm, { gauge })
    await wrapper.get('#g-name').setValue('Factors')
    await press('Save')
    expect(calls('PUT /api/gauges/{id}')[0]).toMatchObject({
      body: { name: 'Factors', measure: 'second-factor', target: 100, warning: 95, alarm: 80 },
      headers: { 'If-Match': '"2"' },
    })
  })
  it('leave what it measures as it is', async () => {
    const wrapper = await place(GaugeForm, { gauge })
    expect(wrapper.find('#g-measure').exists()).toBe(false)
  })
  it('stay open with the refusal where the thresholds are the wrong way round', async () => {
    answers['PUT /api/gauges/{id}'] = new Error('Thresholds are percent.')
    const wrapper = await place(GaugeForm, { gauge })
    await press('Save')
    expect([wrapper.get('[role=alert]').text(), wrapper.emitted('close')]).toEqual([
      'Thresholds are percent.',
      undefined,
    ])
  })
})

describe('measures of one’s own', () => {
  const own: Schemas['OwnMeasureView'] = {
    id: 7,
    name: 'own-7',
    measure: {
      title: 'Guests with a sponsor',
      says: 'Guests.',
      area: 'people',
      asks: { over: 'statement', question: 'SELECT 1', least: null, most: null },
    },
    by: 'Mikkel Brand',
    revision: 1,
  }
  const list = (measures: Schemas['OwnMeasureView'][] = []) => {
    answers['GET /api/own-measures'] = measures
    return place(OwnMeasures, {})
  }
  it('say whose view they have', async () => {
    expect((await list([own])).text()).toContain('It sees what Mikkel Brand may read.')
  })
  it('are tried before they are kept', async () => {
    answers['POST /api/own-measures/trial'] = {
      right: 2,
      of: 3,
      subjects: [{ id: 'b', name: 'Bo', unit: 'Fleet', right: false, why: 'No factor.', link: '' }],
    }
    const wrapper = await list()
    await press('Write one')
    await press('Try it')
    expect(wrapper.get('[role=status]').text()).toContain('2 of 3 rows are as they should be = 66.7 %')
    expect(wrapper.get('tbody').text()).toContain('▲ Bo')
  })
  it('show where the statement is wrong', async () => {
    answers['POST /api/own-measures/trial'] = new Error('The answer needs a column “id”.')
    const wrapper = await list()
    await press('Write one')
    await press('Try it')
    expect(wrapper.get('[role=alert]').text()).toBe('The answer needs a column “id”.')
  })
  it('are kept with what was typed', async () => {
    answers['POST /api/own-measures'] = own
    const wrapper = await list()
    await press('Write one')
    await wrapper.get('#m-title').setValue('Guests with a sponsor')
    await press('Keep it')
    expect(calls('POST /api/own-measures')[0]!.body).toMatchObject({ title: 'Guests with a sponsor', area: 'access' })
  })
  it('count what a query finds, against bounds', async () => {
    answers['POST /api/own-measures/trial'] = {
      right: 0,
      of: 1,
      subjects: [
        { id: 'count', name: '2 events', unit: '', right: false, why: '2 events; at most 0 expected', link: '' },
      ],
    }
    const wrapper = await list()
    await press('Write one')
    await wrapper.get('input[value="events"]').setValue(true)
    await press('Try it')
    expect(calls('POST /api/own-measures/trial')[0]!.body).toEqual({
      over: 'events',
      question: 'action = log.stop',
      least: null,
      most: 0,
    })
    expect(wrapper.get('[role=status]').text()).toBe('▲ Not as it should be: 2 events; at most 0 expected.')
  })
  it('send no bounds with a statement', async () => {
    answers['POST /api/own-measures/trial'] = { right: 0, of: 0, subjects: [] }
    await list()
    await press('Write one')
    await press('Try it')
    expect(calls('POST /api/own-measures/trial')[0]!.body).toMatchObject({ over: 'statement', most: null })
  })
  it('are changed against the revision that was seen', async () => {
    answers['PUT /api/own-measures/{id}'] = own
    await list([own])
    await press('Change')
    await press('Keep it')
    expect(calls('PUT /api/own-measures/{id}')[0]!.headers).toMatchObject({ 'If-Match': '"1"' })
  })
  it('are not removed where something rests on them', async () => {
    answers['DELETE /api/own-measures/{id}'] = new Error('“Factors” rests on this measure; remove that first.')
    const wrapper = await list([own])
    await press('Remove')
    expect([wrapper.get('[role=alert]').text(), button('Remove') === undefined]).toEqual([
      '“Factors” rests on this measure; remove that first.',
      false,
    ])
  })
})
