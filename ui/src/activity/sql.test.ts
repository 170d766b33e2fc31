import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import SqlAnswer from './SqlAnswer.vue'
import SqlPlace from './SqlPlace.vue'
import StatementSchedule from './StatementSchedule.vue'

tidyUp()
standIn()
const own = (more: Partial<Schemas['SavedStatementView']> = {}): Schemas['SavedStatementView'] => ({
  id: 3,
  name: 'By person',
  sql: 'SELECT * FROM events WHERE actor = $who',
  parameters: [{ name: 'who', type: 'text', value: 'p1' }],
  days: 7,
  rhythm: null,
  lastRunOn: null,
  lastSaid: null,
  lastFailed: false,
  ...more,
})
beforeEach(() => {
  sessionStorage.clear()
  signedIn('readActivity')
  answers['GET /api/statements'] = { views: [], functions: [], ready: [], own: [own()] }
  answers['POST /api/statements/answers'] = {
    columns: [{ name: 'n', type: 'BIGINT' }],
    rows: [[4]],
    cut: false,
    seconds: 0.1,
  }
})
const sent = (path: string) => calls(path)[0]?.body as { parameters: Schemas['StatementParameter'][]; days?: number }

describe('the place of statements', () => {
  it('gives a parameter that a statement names a field with its value', async () => {
    const wrapper = await place(SqlPlace)
    await press('By person')
    await flushPromises()
    expect(wrapper.find<HTMLInputElement>('#parameter-who').element.value).toBe('p1')
  })
  it('sends the values with their types', async () => {
    await place(SqlPlace)
    await press('By person')
    await flushPromises()
    expect(sent('POST /api/statements/answers').parameters).toContainEqual({ name: 'who', type: 'text', value: 'p1' })
  })
  it('asks over the span that the statement was kept with', async () => {
    await place(SqlPlace)
    await press('By person')
    await flushPromises()
    const from = sent('POST /api/statements/answers').parameters.find((p) => p.name === 'from')
    expect(from?.value).toBe('2026-06-09T00:00:00.000Z')
  })
  it('keeps a statement with its parameters and its span', async () => {
    answers['POST /api/statements'] = {}
    await place(SqlPlace)
    await press('By person')
    await flushPromises()
    await type('#parameter-who', 'p2')
    await press('Keep it')
    const body = sent('POST /api/statements')
    expect([body.days, body.parameters]).toEqual([7, [{ name: 'who', type: 'text', value: 'p2' }]])
  })
  it('offers a schedule for a statement that is kept as it stands there', async () => {
    await place(SqlPlace)
    expect(document.querySelector('#rhythm')).toBeNull()
    await press('By person')
    await flushPromises()
    expect(document.querySelector('#rhythm')).not.toBeNull()
  })
  it('says what the server refused', async () => {
    answers['POST /api/statements/answers'] = new Error('There is no view of that name.')
    const wrapper = await place(SqlPlace)
    await press('By person')
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('There is no view of that name.')
  })
})

describe('a schedule', () => {
  it('is sent as soon as it is chosen', async () => {
    answers['PUT /api/statements/{id}/schedule'] = {}
    const wrapper = await place(StatementSchedule, { statement: own() })
    wrapper.findComponent({ name: 'ElSelect' }).vm.$emit('update:modelValue', 'weekly')
    await flushPromises()
    expect(calls('PUT /api/statements/{id}/schedule')[0]!.body).toEqual({ rhythm: 'weekly' })
  })
  it('can be ended', async () => {
    answers['PUT /api/statements/{id}/schedule'] = {}
    const wrapper = await place(StatementSchedule, { statement: own({ rhythm: 'daily' }) })
    wrapper.findComponent({ name: 'ElSelect' }).vm.$emit('update:modelValue', 'never')
    await flushPromises()
    expect(calls('PUT /api/statements/{id}/schedule')[0]!.body).toEqual({ rhythm: null })
  })
  it('shows why the last run had no answer', async () => {
    const wrapper = await place(StatementSchedule, {
      statement: own({ rhythm: 'daily', lastRunOn: '2026-06-15', lastFailed: true, lastSaid: 'It took too long.' }),
    })
    expect(wrapper.text()).toContain('▲ no answer on 15 Jun 2026: It took too long.')
  })
})

describe('an answer', () => {
  const answer = {
    columns: [
      { name: 'who', type: 'VARCHAR' },
      { name: 'n', type: 'BIGINT' },
    ],
    cut: false,
    seconds: 1,
  }
  it('is drawn as bars where a text stands beside a number', async () => {
    const wrapper = await place(SqlAnswer, {
      answer: {
        ...answer,
        rows: [
          ['a', 4],
          ['b', 2],
        ],
      },
    })
    await press('As a chart')
    expect(wrapper.findAll('.bars span').map((s) => s.attributes('style'))).toEqual(['width: 100%;', 'width: 50%;'])
  })
  it('is not drawn where no number stands in it', async () => {
    await place(SqlAnswer, { answer: { ...answer, rows: [['a', 'b']] } })
    expect(button('As a chart')).toBeUndefined()
  })
  it('shows the first 500 rows and says so', async () => {
    const rows = Array.from({ length: 501 }, (_, i) => [`p${i}`, i])
    const wrapper = await place(SqlAnswer, { answer: { ...answer, rows } })
    expect([wrapper.findAll('tbody tr').length, wrapper.text().includes('first 500 rows')]).toEqual([500, true])
  })
  it('leaves out what is missing from the archive only where somebody says so', async () => {
    answers['POST /api/statements/answers'] = Object.assign(new Error('A sealed file is missing.'), {
      name: 'archive-incomplete',
    })
    await place(SqlPlace)
    await press('By person')
    await flushPromises()
    await press('Answer without them')
    expect(
      calls('POST /api/statements/answers').map((c) => (c.body as { withoutMissing: boolean }).withoutMissing),
    ).toEqual([false, true])
  })
})
