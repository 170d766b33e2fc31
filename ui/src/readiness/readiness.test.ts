import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import AssuranceSheet from './AssuranceSheet.vue'
import HeatMap from './HeatMap.vue'
import HistoryLine from './HistoryLine.vue'
import { percent } from './words'

describe('a share', () => {
  it('is shown with a place after the point where it is not whole', () => expect(percent(0.4567)).toBe('45.7 %'))
  it('is shown without one where it is whole', () => expect(percent(1)).toBe('100 %'))
  it('is a dash where there is none', () => expect(percent(null)).toBe('–'))
})

const risk = (id: number, likelihoodAfter: number, impactAfter: number) =>
  ({
    id,
    overdue: false,
    revision: 1,
    settings: { kind: 'risk', title: `r${id}`, likelihoodAfter, impactAfter },
  }) as Schemas['RegisterView']

describe('the heat map', () => {
  const map = (cell: [number, number] | null = null) =>
    mount(HeatMap, { props: { risks: [risk(1, 2, 3), risk(2, 2, 3)], cell } })
  const button = (wrapper: ReturnType<typeof map>) => wrapper.get('[aria-label="Likelihood 2, impact 3: 2 risks"]')
  it('counts the risks of a cell', () => expect(button(map()).text()).toBe('2'))
  it('opens a cell', async () => {
    const wrapper = map()
    await button(wrapper).trigger('click')
    expect(wrapper.emitted('pick')![0]).toEqual([[2, 3]])
  })
  it('folds a cell that is open', async () => {
    const wrapper = map([2, 3])
    await button(wrapper).trigger('click')
    expect(wrapper.emitted('pick')![0]).toEqual([null])
  })
  it('does not open an empty cell', () =>
    expect(map().get('[aria-label="Likelihood 5, impact 5: 0 risks"]').attributes('disabled')).toBeDefined())
})

const point = (day: string, readiness: number, moved: string[] = []) => ({ day, readiness, moved })

describe('the history', () => {
  const line = () =>
    mount(HistoryLine, {
      props: { points: [point('2026-01-01', 0.2), point('2026-02-01', 0.6, ['ACC-01 counts again.'])] },
    })
  it('marks a day on which something moved it', () => expect(line().findAll('circle')).toHaveLength(1))
  it('says what moved it when the mark is pressed', async () => {
    const wrapper = line()
    await wrapper.get('circle').trigger('click')
    expect(wrapper.text()).toContain('ACC-01 counts again.')
  })
  it('is not drawn of one day alone', () =>
    expect(
      mount(HistoryLine, { props: { points: [point('2026-01-01', 0.2)] } })
        .find('svg')
        .exists(),
    ).toBe(false))
})

describe('the assurance page', () => {
  const page: Schemas['AssurancePage'] = {
    organisation: 'Tarn Lines',
    words: 'Hello',
    asOf: '2026-06-15',
    frameworks: [],
    areas: [],
    policies: [],
  }
  it('has no heading for what was not chosen', () =>
    expect(mount(AssuranceSheet, { props: { page } }).findAll('h2')).toHaveLength(0))
  it('shows how many controls of an area are ready', () =>
    expect(
      mount(AssuranceSheet, { props: { page: { ...page, areas: [{ area: 'access', passing: 2, of: 3 }] } } }).text(),
    ).toContain('2 of 3 ready'))
})
