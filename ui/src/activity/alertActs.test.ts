import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import AlertActs from './AlertActs.vue'
import AlertUses from './AlertUses.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readActivity', 'manageWatches', 'readReadiness', 'manageReadiness'))

const waiting = (more: Partial<Schemas['AlertActView']> = {}): Schemas['AlertActView'] => ({
  id: 8,
  words: 'suspends nora@a.example',
  at: '2026-06-14T22:20:00Z',
  by: 'Sunniva Krag',
  verified: false,
  failure: null,
  undoneAt: null,
  undoable: false,
  waits: true,
  decidedBy: null,
  mayNotDecide: null,
  ...more,
})
const list = (more: Partial<Schemas['AlertActView']> = {}) => place(AlertActs, { alert: 5, acts: [waiting(more)] })

describe('an act that waits for a second person', () => {
  beforeEach(() => {
    answers['POST /api/alerts/{id}/acts/{act}/decision'] = {}
  })
  it('says who asks for what', async () => {
    expect((await list()).text()).toContain('Sunniva Krag asks for a second person: suspends nora@a.example')
  })
  it('is done when somebody agrees', async () => {
    await list()
    await press('I agree: do it')
    expect(calls('POST /api/alerts/{id}/acts/{act}/decision')[0]!.body).toEqual({ agree: true, why: '' })
  })
  it('is not done where somebody does not agree, and says why', async () => {
    await list()
    await press('I do not agree …')
    await type('input[aria-label="Why not"]', 'She covers for Nils.')
    await press('I do not agree')
    expect(calls('POST /api/alerts/{id}/acts/{act}/decision')[0]!.body).toEqual({
      agree: false,
      why: 'She covers for Nils.',
    })
  })
  it('asks for the reason before it sends', async () => {
    await list()
    await press('I do not agree …')
    expect(button('I do not agree')!.disabled).toBe(true)
  })
  it('gives whoever asked the reason in place of the buttons', async () => {
    const wrapper = await list({ mayNotDecide: 'You asked for this act; somebody else must agree.' })
    expect([button('I agree: do it'), wrapper.text().includes('somebody else must agree')]).toEqual([undefined, true])
  })
  it('is only read by those who do not act on alerts', async () => {
    signedIn('readActivity')
    await list()
    expect(button('I agree: do it')).toBeUndefined()
  })
  it('names both once it is done', async () => {
    const wrapper = await list({ waits: false, verified: true, decidedBy: 'Runa Vik' })
    expect(wrapper.text()).toContain('and Runa Vik agreed')
  })
})

describe('what an alert becomes', () => {
  const alert = { id: 5, watch: 'Many deletions', why: 'Nils deleted 49 files.', severity: 'high' }
  const uses = () => place(AlertUses, { alert })
  const own = (more: object) => ({ id: 3, name: 'Pier 4', frozenAt: null, mine: true, events: [], ...more })
  beforeEach(() => {
    answers['GET /api/alerts/{id}/investigations'] = []
    answers['GET /api/investigations'] = []
  })
  it('names the investigations that are attached to it, with their files', async () => {
    answers['GET /api/alerts/{id}/investigations'] = [
      { id: 3, name: 'Pier 4', summary: '', by: 'Runa Vik', events: 2, frozenAt: '2026-06-15T08:00:00Z', hash: 'a' },
    ]
    const list = (await uses()).get('[aria-label="Investigations"]')
    expect([list.text(), list.get('a').attributes('href')]).toEqual([
      'Pier 4 · Runa Vik, 2 events, frozen · the file with proofs · SHA-256 a…',
      '/api/investigations/3/file',
    ])
  })
  it('offers investigations of one’s own to attach, and no others', async () => {
    answers['GET /api/investigations'] = [own({}), own({ id: 4, name: 'Hers', mine: false })]
    answers['POST /api/alerts/{id}/investigations'] = {}
    await uses()
    await press('Attach an investigation ▾')
    const choices = await vi.waitUntil(() => {
      const items = [...document.querySelectorAll<HTMLElement>('.el-dropdown-menu__item')]
      return items.length > 0 && items
    })
    expect(choices.map((c) => c.textContent)).toEqual(['Pier 4'])
    choices[0]!.click()
    await flushPromises()
    expect(calls('POST /api/alerts/{id}/investigations')[0]!.body).toEqual({ investigationId: 3 })
  })
  it('is an investigation', async () => {
    answers['POST /api/alerts/{id}/investigation'] = { id: 3 }
    await uses()
    await press('Open an investigation with its events')
    expect(calls('POST /api/alerts/{id}/investigation')).toHaveLength(1)
  })
  it('is a file', async () => {
    expect((await uses()).get('a').attributes('href')).toBe('/api/alerts/5/file')
  })
  it('offers readiness only to those who manage it', async () => {
    signedIn('readActivity', 'manageWatches')
    await uses()
    expect(button('Keep it as evidence …')).toBeUndefined()
  })
  it('says where no audit is open for a finding', async () => {
    answers['GET /api/audits'] = []
    await uses()
    await press('Make it a finding …')
    expect(button('Make it a finding')!.disabled).toBe(true)
  })
})
