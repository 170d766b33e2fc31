import { beforeEach, describe, expect, it } from 'vitest'
import { answers, button, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import EvidencePlace from './EvidencePlace.vue'
import FrameworksPlace from './FrameworksPlace.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readReadiness', 'manageReadiness'))

const framework = (more: Partial<Schemas['FrameworkView']> = {}): Schemas['FrameworkView'] => ({
  id: 1,
  code: 'CSF',
  title: 'Outcomes',
  version: '2.0',
  requirements: 12,
  unanswered: 0,
  readiness: 0.82,
  forecast: 0.82,
  units: [],
  history: [],
  ...more,
})
const overview = (frameworks: Schemas['FrameworkView'][], areas: Schemas['TestTally'][] = []) =>
  (answers['GET /api/readiness'] = { mean: 0.82, frameworks, areas } satisfies Schemas['ReadinessOverview'])

describe('the overview of readiness', () => {
  beforeEach(() => {
    answers['GET /api/readiness/forecast'] = []
    answers['GET /api/readiness/fixes'] = { fixes: [], most: 0 }
    answers['GET /api/audits'] = []
  })

  it('says what to do where no framework is adopted', async () => {
    overview([])
    expect((await place(FrameworksPlace)).text()).toContain('No framework is adopted yet')
  })
  it('says how many requirements nothing answers', async () => {
    overview([framework({ unanswered: 3 })])
    expect((await place(FrameworksPlace)).find('section[aria-label=Outcomes]').text()).toContain(
      '12 requirements, 3 unanswered',
    )
  })
  it('marks a figure that will fall by itself', async () => {
    overview([framework({ forecast: 0.6 })])
    expect((await place(FrameworksPlace)).find('section[aria-label=Outcomes] .lacking').text()).toBe('60 %')
  })
  it('does not mark one that stays', async () => {
    overview([framework()])
    expect((await place(FrameworksPlace)).find('section[aria-label=Outcomes] .lacking').exists()).toBe(false)
  })
  it('shows four units and the others on request', async () => {
    const units = ['A', 'B', 'C', 'D', 'E', 'F'].map((unit) => ({ unit, people: 3, readiness: 0.5 }))
    overview([framework({ units })])
    const wrapper = await place(FrameworksPlace)
    expect(wrapper.find('.units').text()).toContain('and 2 more units')
    await press('and 2 more units')
    expect(wrapper.findAll('.units span').length).toBe(6)
  })
  it('leads from an area to its controls', async () => {
    overview([framework()], [{ area: 'people', passing: 4, failing: 1 }])
    const area = (await place(FrameworksPlace)).find('section[aria-label="Tests by area"]')
    expect([area.find('a').attributes('href'), area.find('.lacking').text()]).toEqual([
      '/readiness/controls?area=people',
      '1 failing',
    ])
  })
  it('says how far the mean falls if nobody does anything', async () => {
    overview([framework()])
    answers['GET /api/readiness/forecast'] = [{ day: '2026-10-13', readiness: 0.7, moved: ['FIN-2: a routine is due'] }]
    const wrapper = await place(FrameworksPlace)
    expect(wrapper.find('section[aria-label="If nobody does anything"]').text()).toContain('FIN-2: a routine is due')
    expect(wrapper.find('section[aria-label="If nobody does anything"] p').text()).toContain('12 %')
  })
  it('offers no framework to adopt to somebody who only reads', async () => {
    signedIn('readReadiness')
    overview([framework()])
    await place(FrameworksPlace)
    expect(button('Adopt a framework')).toBeUndefined()
  })
})

describe('the list of evidence', () => {
  const piece = (partId: number, more: Partial<Schemas['EvidenceView']> = {}): Schemas['EvidenceView'] => ({
    partId,
    control: 'ACC-1',
    title: 'Contract',
    kind: 'evidence',
    doer: 'ann@x.example',
    counts: true,
    endsOn: null,
    latest: null,
    awaitsApproval: false,
    versions: 1,
    kept: false,
    sameAs: [],
    ...more,
  })
  const total = (text: string) => /\d+ pieces?/.exec(text)?.[0]

  it('counts what is asked for', async () => {
    answers['GET /api/evidence'] = [piece(1), piece(2)]
    expect(total((await place(EvidencePlace)).text())).toBe('2 pieces')
  })
  it('narrows by control, title and doer', async () => {
    answers['GET /api/evidence'] = [piece(1), piece(2, { control: 'FIN-9' }), piece(3, { doer: 'FIN@x.example' })]
    const wrapper = await place(EvidencePlace)
    await wrapper.find('input[aria-label="Filter the evidence"]').setValue('fin')
    expect(total(wrapper.text())).toBe('2 pieces')
  })
  it('narrows to what does not count', async () => {
    answers['GET /api/evidence'] = [piece(1), piece(2, { counts: false })]
    const wrapper = await place(EvidencePlace)
    await wrapper.find('input[type=checkbox]').setValue(true)
    expect(total(wrapper.text())).toBe('1 piece')
  })
  it('says so where nothing is asked for', async () => {
    answers['GET /api/evidence'] = []
    expect((await place(EvidencePlace)).text()).toContain('No evidence or routines')
  })
})
