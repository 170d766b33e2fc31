import { RouterLinkStub, flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from './Consequences.vue'
import Histogram from './Histogram.vue'
import { answers, consequences, tally, calls, place, standIn, tidyUp } from './testing'

const view = (figures: Partial<Schemas['ConsequenceFigures']> = {}, more: Partial<Schemas['ConsequencesView']> = {}) =>
  consequences({ inReach: tally(10), unchanged: tally(10), ...figures }, more)
const shown = (v: Schemas['ConsequencesView'] | undefined, more = {}) =>
  mount(Consequences, { props: { view: v, of: 'draft', ...more }, global: { stubs: { RouterLink: RouterLinkStub } } })
tidyUp()
standIn()

describe('the consequences of a draft', () => {
  it('say nought plainly, and only figures above nought open their rows', () => {
    const wrapper = shown(view({ sooner: tally(3) }), { load: vi.fn() })
    expect(wrapper.findAll('.figure').map((f) => f.text().replace(/\s+/g, ' '))).toEqual([
      '0become due today',
      '3are kept shorter3.0 KiB',
      '0come under a rule',
      '10stay as they are10.0 KiB',
    ])
    expect(wrapper.findAll('.figure button').map((b) => b.attributes('data-group'))).toEqual(['sooner', 'none'])
  })
  it('open a figure, and the number in reach, into the items behind it', async () => {
    answers['GET /api/schedule/drafts/{group}'] = { items: [], next: null, total: 0, bytes: 0 }
    const asked: string[] = []
    const load = (group: string) => {
      asked.push(group)
      return take(api.GET('/api/schedule/drafts/{group}', { params: { path: { group } } }))
    }
    const wrapper = await place(Consequences, { view: view({ becomeDue: tally(1) }), of: 'draft', load })
    await wrapper.get('[data-group=becomesDue]').trigger('click')
    await flushPromises()
    expect(document.body.querySelector('.el-dialog__title')!.textContent).toBe('1 item that becomes due today')
    await wrapper.get('[data-group=all]').trigger('click')
    await flushPromises()
    expect([asked, calls('GET /api/schedule/drafts/{group}').length]).toEqual([['becomesDue', 'all'], 2])
  })
  it('offer nothing to press where the items may not be read', () => {
    expect(shown(view({ becomeDue: tally(1) })).findAll('[data-group]')).toHaveLength(0)
  })
  it('say whose holds keep items back, as far as the viewer is told', () => {
    const by = [
      { matterId: 3, number: 'M-2026-3', name: 'Pier', items: 1200 },
      { matterId: 4, number: 'M-2026-4', name: 'Fuel', items: 2 },
    ]
    expect(
      shown(view({}, { heldBy: by, heldOtherwise: 5 }))
        .get('.held')
        .text(),
    ).toBe('Kept back: 1,200 items by M-2026-3 Pier, 2 items by M-2026-4 Fuel, 5 items for another reason.')
    expect(
      shown(view({}, { heldBy: [], heldOtherwise: 5 }))
        .find('.held')
        .exists(),
    ).toBe(false)
    expect(
      shown(view({}, { heldBy: by, heldOtherwise: 5 }), { load: vi.fn() })
        .findAll('.held button')
        .map((b) => b.attributes('data-group')),
    ).toEqual(['heldBack-3', 'heldBack-4', 'heldBack-otherwise'])
  })
  it('show the loss of protection in the colour of warning', () => {
    const figure = shown(view({ loseProtection: tally(2) }))
      .findAll('.figure')
      .find((f) => f.text().includes('lose protection'))!
    expect(figure.get('strong').attributes('style')).toContain('--copper')
  })
  it('lay months out for a year at least, without a gap', async () => {
    const wrapper = shown(
      view({
        byMonth: [
          { month: '2026-11-01', before: 0, after: 4 },
          { month: '2027-02-01', before: 2, after: 0 },
        ],
      }),
    )
    await vi.dynamicImportSettled()
    await wrapper.vm.$nextTick()
    const chart = wrapper.getComponent(Histogram)
    expect(chart.props('labels').slice(0, 4)).toEqual(['Nov 2026', 'Dec 2026', 'Jan 2027', 'Feb 2027'])
    expect(chart.props('labels')).toHaveLength(12)
    expect(chart.props('after').slice(0, 4)).toEqual([4, 0, 0, 0])
    expect(chart.props('before').slice(0, 4)).toEqual([0, 0, 0, 2])
  })
  it('go by year over a long time, and lose no item by it', async () => {
    const byMonth = [
      { month: '2026-01-01', before: 1, after: 2 },
      { month: '2026-12-01', before: 3, after: 4 },
      { month: '2031-06-01', before: 5, after: 6 },
    ]
    const wrapper = shown(view({ byMonth }))
    await vi.dynamicImportSettled()
    await wrapper.vm.$nextTick()
    const chart = wrapper.getComponent(Histogram)
    expect(chart.props('labels')).toEqual(['2026', '2027', '2028', '2029', '2030', '2031'])
    expect(chart.props('before')).toEqual([4, 0, 0, 0, 0, 5])
  })
  it('can be read as a table, which leaves empty months out', async () => {
    const wrapper = shown(
      view({
        byMonth: [
          { month: '2026-11-01', before: 0, after: 4 },
          { month: '2027-02-01', before: 2, after: 0 },
        ],
      }),
    )
    await wrapper.get('.legend button').trigger('click')
    expect(wrapper.findAll('.chart tbody tr').map((r) => r.text())).toEqual(['Nov 202604', 'Feb 202720'])
  })
  it('name each container and say what is left alone', () => {
    const wrapper = shown(
      view(
        { byContainer: [{ containerId: 4, items: 9, changed: 3, becomeDue: 1 }] },
        { containers: [{ id: 4, name: 'Harbour office' }], untouchable: 1 },
      ),
    )
    expect(wrapper.get('.containers tbody tr').text()).toBe('Harbour office931')
    expect(wrapper.text()).toContain('1 item on the docket or destroyed is left alone.')
  })
  it('give a refusal in place of figures', () => {
    const wrapper = shown(view(), { problem: 'The period is no ISO 8601 period.' })
    expect(wrapper.get('[role=alert]').text()).toBe('The period is no ISO 8601 period.')
    expect(wrapper.find('.figure').exists()).toBe(false)
  })
})
