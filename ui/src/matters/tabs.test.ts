import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, calls, place, standIn, tidyUp } from '@/shared/testing'
import HoldSentence from './HoldSentence.vue'
import MembersTab from './MembersTab.vue'
import NoticesPage from './NoticesPage.vue'
import SweepsTab from './SweepsTab.vue'

const flat = (text: string | null | undefined) => (text ?? '').replace(/\s+/g, ' ').trim()
const definition = { containers: [], custodians: [1], query: 'pier', from: null, to: null }
const figures = {
  documents: 9,
  families: 12,
  added: 2,
  gone: 0,
  unreadable: 1,
  byTerm: [
    { term: 'pier', alone: 7, found: 5, only: 5, documents: 6, families: 8 },
    { term: 'fog', alone: 0, found: 0, only: 0, documents: 0, families: 0 },
  ],
  byContainer: [{ id: 9, name: 'Harbour office', items: 5, bytes: 5120 }],
  byCustodian: [{ id: 1, name: 'Pia Lind', items: 0, bytes: 0 }],
}
const sweep = (
  last: unknown = {
    id: 4,
    at: '2026-06-15T08:00:00Z',
    state: 'done',
    items: 5,
    bytes: 5120,
    failure: null,
    figures,
    definition,
  },
) => ({ id: 3, name: 'Pier', revision: 6, definition, last })
const matter = (more: Record<string, unknown> = {}): Schemas['MatterView'] =>
  ({
    id: 2,
    name: 'Collision',
    description: '',
    kind: 'litigation',
    delayDays: 30,
    controlPrefix: 'TF',
    bundleDays: 90,
    revision: 8,
    state: 'open',
    part: 'lead',
    openedBy: 'Vera Quist',
    custodians: [{ id: 1, name: 'Pia Lind' }],
    sweeps: [],
    tags: [],
    members: [{ id: 11, name: 'Vera Quist', part: 'lead', isGroup: false, isYou: true }],
    ...more,
  }) as unknown as Schemas['MatterView']
tidyUp()
standIn()

describe('sweeps', () => {
  const shown = (more: Record<string, unknown> = {}) => {
    answers['GET /api/containers'] = []
    answers['GET /api/matters/{id}/runs/{run}/items'] = { items: [], next: null, total: 0, bytes: 0 }
    return place(SweepsTab, { matter: matter({ sweeps: [sweep()], ...more }) })
  }
  it('say what differs from the run before, and link only what there is', async () => {
    const wrapper = await shown()
    expect(flat(wrapper.find('.found').text())).toContain(
      '5 items, 5.0 KiB; as documents 9, with their families 12. Against the run before: 2 new, none gone. ' +
        '1 file in these places was not read whole, so not all of its words are known. List of ids (CSV)',
    )
    expect(wrapper.findAll('.found button').map((b) => b.text())).toEqual(['5 items', '9', '12', '2 new', '1 file'])
    expect(wrapper.find('.found a').attributes('href')).toBe('/api/matters/2/runs/4/items.csv')
  })
  it('open a term, a container and a change into the items behind them', async () => {
    const wrapper = await shown()
    for (const [selector, query] of [
      ['[aria-label="By term"] td:nth-child(2) button', { term: 0, scope: 'alone' }],
      ['[aria-label="By term"] td:nth-child(3) button', { term: 0 }],
      ['[aria-label="By term"] td:nth-child(4) button', { term: 0, scope: 'only' }],
      ['[aria-label="By container"] button', { container: 9 }],
      ['[aria-label="By term"] td:nth-child(5) button', { term: 0 }],
      ['[aria-label="By term"] td:nth-child(6) button', { term: 0 }],
      ['.found button:nth-of-type(3)', {}],
      ['.found button:nth-of-type(4)', { change: 'added' }],
    ] as const) {
      await wrapper.find(selector).trigger('click')
      await flushPromises()
      const dialog = wrapper.findComponent({ name: 'SweepHits' })
      expect(dialog.props()).toMatchObject({ matter: { id: 2 }, run: 4, query })
      dialog.vm.$emit('close')
      await flushPromises()
    }
    expect(calls('GET /api/matters/{id}/runs/{run}/items')).toHaveLength(8)
    // Nothing opens where nothing was found.
    expect(wrapper.findAll('[aria-label="By term"] button')).toHaveLength(5)
    expect(wrapper.findAll('[aria-label="By custodian"] button')).toHaveLength(0)
  })
  it('show the remark on days that were hardly meant, and take them', async () => {
    answers['POST /api/matters/{id}/count'] = {
      found: { items: 5, bytes: 5120 },
      terms: ['pier'],
      remark: 'The last day lies in 2099, more than 50 years ahead; leave it out for no end.',
    }
    const wrapper = await shown()
    wrapper.findComponent(HoldSentence).vm.$emit('change', { ...definition, to: '2099-12-31' })
    await vi.waitFor(() => expect(wrapper.find('.problem[role=status]').text()).toContain('lies in 2099'))
    expect(flat(wrapper.text())).toContain('Finds 5 items now')
  })
  it('list the files that could not be read, each with its reason', async () => {
    answers['GET /api/matters/{id}/runs/{run}/unreadable'] = [
      { source: 'Share', path: 'Fleet/broken.pdf', reason: 'It is damaged.' },
    ]
    const wrapper = await shown()
    await wrapper
      .findAll('.found button')
      .find((b) => b.text() === '1 file')!
      .trigger('click')
    await flushPromises()
    expect(flat(document.body.querySelector('.el-dialog tbody')!.textContent)).toBe(
      'ShareFleet/broken.pdfIt is damaged.',
    )
  })
  it('are run as they are saved, and not while one runs', async () => {
    const wrapper = await shown()
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Run again')!
      .trigger('click')
    await flushPromises()
    expect(calls('POST /api/matters/{id}/sweeps/{sweep}/runs')).toHaveLength(1)
    expect(calls('PUT /api/matters/{id}/sweeps/{sweep}')).toHaveLength(0)
    await wrapper.setProps({
      matter: matter({
        sweeps: [
          sweep({
            id: 5,
            at: '2026-06-15T08:00:00Z',
            state: 'running',
            items: 0,
            bytes: 0,
            failure: null,
            figures: null,
          }),
        ],
      }),
    })
    expect(wrapper.find('.is-loading').text()).toBe('Run again')
    expect(wrapper.find('[role=status]').text()).toBe('Looking …')
  })
  it('are only read by a reader, and why a run failed is said', async () => {
    const wrapper = await shown({
      part: 'reader',
      sweeps: [
        sweep({
          id: 5,
          at: '2026-06-15T08:00:00Z',
          state: 'failed',
          items: 0,
          bytes: 0,
          failure: 'The share cannot be reached.',
          figures: null,
        }),
      ],
    })
    expect(wrapper.findAll('.el-button')).toHaveLength(0)
    expect(wrapper.find('[role=alert]').text()).toBe('The share cannot be reached.')
  })
})

describe('members', () => {
  it('are let in and removed by a lead only', async () => {
    answers['GET /api/matters/{id}/candidates'] = []
    const lead = await place(MembersTab, { matter: matter() })
    expect(flat(lead.text())).toContain('Let in')
    await lead
      .findAll('button')
      .find((b) => b.text() === 'Remove')!
      .trigger('click')
    await flushPromises()
    expect(calls('DELETE /api/matters/{id}/members/{member}')).toHaveLength(1)
    const reader = await place(MembersTab, { matter: matter({ part: 'reader' }) })
    expect(reader.findAll('button').filter((b) => ['Let in', 'Remove', 'Save'].includes(b.text()))).toEqual([])
  })
  it('see why the last lead stays', async () => {
    answers['GET /api/matters/{id}/candidates'] = []
    answers['DELETE /api/matters/{id}/members/{member}'] = new Error('A matter keeps at least one person as its lead.')
    const wrapper = await place(MembersTab, { matter: matter() })
    await wrapper
      .findAll('button')
      .find((b) => b.text() === 'Remove')!
      .trigger('click')
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('A matter keeps at least one person as its lead.')
  })
  it('save what is about the matter against the revision they saw, once something differs', async () => {
    answers['GET /api/matters/{id}/candidates'] = []
    answers['PUT /api/matters/{id}'] = matter()
    const wrapper = await place(MembersTab, { matter: matter() })
    const save = () => wrapper.findAll('button').find((b) => b.text() === 'Save')!
    expect(save().attributes('disabled')).toBeDefined()
    await wrapper.find('#a-name').setValue('Collision with pier 4')
    await save().trigger('click')
    await flushPromises()
    const [call] = calls('PUT /api/matters/{id}')
    expect(call!.body).toMatchObject({ name: 'Collision with pier 4', delayDays: 30 })
    expect(JSON.stringify(call!.headers ?? call)).toContain('8')
  })
})

describe('notices to a custodian', () => {
  const notice = (more: Record<string, unknown> = {}) => ({
    id: 1,
    kind: 'hold',
    sentAt: '2026-06-01',
    subject: 'Collision',
    body: 'Keep everything.',
    questions: ['Where is it?'],
    answers: [],
    superseded: false,
    acknowledgedAt: null,
    openedAt: null,
    ...more,
  })
  const page = (...notices: unknown[]) => {
    answers['GET /api/notices'] = {
      organisation: 'Tarnholm Ferries',
      name: 'Pia Lind',
      token: 'key',
      notices,
      outstanding: [],
    }
    return place(NoticesPage)
  }
  const opening = 'POST /api/notices/{token}/{copy}/opening'
  const acknowledgement = 'POST /api/notices/{token}/{copy}/acknowledgement'
  it('count as opened once they are on screen, each the first time', async () => {
    await page(notice(), notice({ id: 2, openedAt: '2026-06-02' }), notice({ id: 3, superseded: true }))
    expect(calls(opening)).toHaveLength(1)
  })
  it('are acknowledged with every question answered', async () => {
    const wrapper = await page(notice())
    const button = () => wrapper.find('.el-button')
    expect(button().attributes('disabled')).toBeDefined()
    await wrapper.find('textarea').setValue('In the drawer.')
    expect(button().attributes('disabled')).toBeUndefined()
    await wrapper.find('form').trigger('submit')
    await flushPromises()
    expect(calls(acknowledgement)[0]!.body).toEqual({ answers: ['In the drawer.'] })
  })
  it('ask nothing more where a newer version stands or all is said', async () => {
    const wrapper = await page(
      notice({ superseded: true }),
      notice({ id: 2, acknowledgedAt: '2026-06-03', openedAt: '2026-06-02', answers: ['At home.'] }),
    )
    expect(wrapper.findAll('form')).toHaveLength(0)
    expect(flat(wrapper.find('.old').text())).toContain('a newer version stands')
    expect(flat(wrapper.find('.settled').text())).toBe('You acknowledged it on 3 Jun 2026.')
    expect(wrapper.find('dd').text()).toBe('At home.')
  })
  it('say under a release that another notice still stands', async () => {
    const wrapper = await page(notice({ kind: 'release', stillBound: true }))
    expect(wrapper.get('.lacking').text()).toContain('Another notice to you still stands')
  })
  it('name to a manager who has not acknowledged', async () => {
    answers['GET /api/notices'] = {
      organisation: 'Tarnholm Ferries',
      name: 'Edvin Strand',
      token: '',
      notices: [],
      outstanding: [{ name: 'Pia Lind', sentOn: '2026-06-01', days: 14 }],
    }
    const wrapper = await place(NoticesPage)
    expect(flat(wrapper.get('section').text())).toContain('Pia Lind: sent 1 Jun 2026, 14 days ago.')
  })
  it('say so where the link is not known', async () => {
    answers['GET /api/notices'] = new Error('There is no such page.')
    const wrapper = await place(NoticesPage)
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('There is no such page.')
  })
})
