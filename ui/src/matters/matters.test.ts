import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import History from '@/shared/History.vue'
import { answers, calls, place, standIn, tidyUp } from '@/shared/testing'
import HoldSentence from './HoldSentence.vue'
import MatterTideline from './MatterTideline.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import { happened, rangeWords, reachWords } from './words'

const definition = (more: Partial<Schemas['HoldDefinition']> = {}): Schemas['HoldDefinition'] => ({
  containers: [],
  custodians: [],
  query: null,
  from: null,
  to: null,
  ...more,
})
const custodians = [
  { id: 1, name: 'Pia Lind' },
  { id: 2, name: 'Karl Nyman' },
] as unknown as Schemas['CustodianView'][]
const flat = (text: string | null | undefined) => (text ?? '').replace(/\s+/g, ' ').trim()
tidyUp()
standIn()

describe('the words of a hold', () => {
  it('tell a year once where both days share it, and open ends as such', () => {
    expect(rangeWords('2026-02-01', '2026-06-30')).toBe('1 Feb – 30 Jun 2026')
    expect(rangeWords('2025-12-01', '2026-06-30')).toBe('1 Dec 2025 – 30 Jun 2026')
    expect([rangeWords('2026-02-01', null), rangeWords(null, '2026-06-30'), rangeWords(null, null)]).toEqual([
      'since 1 Feb 2026',
      'until 30 Jun 2026',
      'any time',
    ])
  })
  it('name one custodian, count several, and name no more than two containers', () => {
    const reach = (c: number[], p: number[]) =>
      reachWords(
        definition({ custodians: p, containers: c }),
        (id) => `place ${id}`,
        (id) => `person ${id}`,
      )
    expect(reach([], [])).toBe('the whole unit')
    expect(reach([], [7])).toBe('person 7')
    expect(reach([3], [1, 2, 4, 5])).toBe('these 4 custodians and place 3')
    expect(reach([3, 4], [7])).toBe('person 7, place 3 and place 4')
    expect(reach([3, 4, 5], [])).toBe('these 3 containers')
  })
  it('name events alone where a channel alone is named', () => {
    const words = reachWords(
      definition({ channels: ['mail-server'] }),
      () => '',
      () => '',
    )
    expect(words).toBe('the events of mail-server')
  })
})

describe('the history of a matter', () => {
  const entry = (verb: string, after: unknown, before: unknown = null) =>
    ({ verb, after, before }) as Pick<Schemas['LedgerView'], 'verb' | 'before' | 'after'>
  it('tells whom and how many an act was about', () => {
    expect(happened(entry('notice-reminded', { custodian: 'Karl Nyman', version: 2 }))).toBe(
      'Karl Nyman reminded of version 2',
    )
    expect(happened(entry('sweep-run', { sweep: 'Thruster', items: 1 }))).toBe('sweep “Thruster” run: 1 item')
    expect(happened(entry('notice-issued', { kind: 'Release', version: 1, custodians: ['A', 'B'] }))).toBe(
      'release notice, version 1, sent to 2 custodians',
    )
    expect(happened(entry('member-removed', null, { member: 'Nils Amdal' }))).toBe('Nils Amdal left')
    expect(happened(entry('released', { order: 2, items: 1200 }))).toBe('1,200 items released from order 2')
  })
  it('says a verb that it does not know as it stands', () =>
    expect(happened(entry('job-stopped', null))).toBe('job stopped'))
  it('names the product where nobody asked for what was done', async () => {
    const line = {
      sequence: 1,
      at: '2026-06-15T08:00:00Z',
      who: 'job:routine',
      onBehalfOf: null,
      address: null,
      subjectKind: 'matter',
      subjectId: '1',
      reason: null,
      hash: '',
      ...entry('notice-reminded', { custodian: 'Karl Nyman', version: 2 }),
    }
    const wrapper = await place(History, {
      entries: [
        line,
        { ...line, sequence: 2, onBehalfOf: 'Vera Quist' },
        { ...line, sequence: 3, onBehalfOf: 'scan', ...entry('copied-to-safekeeping', { items: [4, 7] }) },
      ],
      say: happened,
    })
    expect(wrapper.findAll('li span').map((s) => flat(s.text()))).toEqual([
      'Karl Nyman reminded of version 2, Wide Keel',
      'Karl Nyman reminded of version 2, Vera Quist',
      '2 items copied to safekeeping, Wide Keel',
    ])
  })
})

describe('the sentence of a hold', () => {
  const sentence = (props: Record<string, unknown>) => {
    answers['GET /api/containers'] = [{ id: 9, name: 'Harbour office', source: 'Share' }]
    return place(HoldSentence, { custodians, ...props })
  }
  it('reads as a sentence, with the names of its places once they are known', async () => {
    const wrapper = await sentence({
      definition: definition({
        custodians: [1, 2],
        containers: [9],
        query: '"pier 4" or dolphin',
        from: '2026-02-01',
        to: '2026-06-30',
      }),
    })
    expect(flat(wrapper.find('.sentence').text())).toBe(
      'Keep everything of these 2 custodians and Harbour office that matches "pier 4" or dolphin dated 1 Feb – 30 Jun 2026.',
    )
  })
  it('strikes what is in force only where the draft says something else', async () => {
    const wrapper = await sentence({
      definition: definition({ custodians: [1], query: 'pier' }),
      inForce: definition({ custodians: [1], query: 'dolphin' }),
    })
    expect(wrapper.findAll('s').map((s) => s.text())).toEqual(['dolphin'])
    expect(wrapper.find('[data-part=query]').classes()).toContain('changed')
    expect(wrapper.find('[data-part=reach]').classes()).not.toContain('changed')
  })
  it('opens nothing for those who may not edit it', async () => {
    const wrapper = await sentence({ definition: definition() })
    expect(wrapper.findAll('.part').every((p) => p.attributes('disabled') !== undefined)).toBe(true)
  })
})

describe('a matter in time', () => {
  const mark = (kind: string, at: string, more: Partial<Schemas['MatterMark']> = {}): Schemas['MatterMark'] => ({
    kind,
    at,
    until: null,
    label: kind,
    id: null,
    ...more,
  })
  const drawn = (marks: Schemas['MatterMark'][]) => mount(MatterTideline, { props: { marks, today: '2026-06-15' } })
  it('draws an order in force to today and a released one to its end', () => {
    const wrapper = drawn([
      mark('order', '2026-04-10T08:00:00Z', { label: 'Order 1' }),
      mark('order', '2026-04-10T08:00:00Z', { label: 'Order 2', until: '2026-05-10T08:00:00Z' }),
    ])
    const [running, ended] = wrapper.findAll<HTMLElement>('.bar').map((b) => ({
      ended: b.classes().includes('ended'),
      width: Number(b.element.style.width.replace('%', '')),
      title: b.attributes('title'),
    }))
    expect([running!.ended, ended!.ended]).toEqual([false, true])
    expect(ended!.width).toBeLessThan(running!.width)
    expect(ended!.title).toBe('Order 2, 10 Apr 2026 until 10 May 2026')
  })
  it('sets marks of one day side by side, and each opens what it stands for', async () => {
    const wrapper = drawn([
      mark('opened', '2026-04-06T08:00:00Z'),
      mark('sweep', '2026-04-10T08:00:00Z', { id: 4 }),
      mark('notice', '2026-04-10T09:00:00Z', { id: 5 }),
    ])
    expect(new Set(wrapper.findAll<HTMLElement>('.mark').map((m) => m.element.style.left)).size).toBe(3)
    await wrapper.find('.mark[aria-label^=notice]').trigger('click')
    expect(wrapper.emitted('open')).toEqual([[expect.objectContaining({ kind: 'notice', id: 5 })]])
  })
})

describe('a release', () => {
  const tally = (items = 0) => ({ items, bytes: items * 1024 })
  const path = 'POST /api/matters/{id}/orders/{order}/releases/consequences'
  const preview = (): Schemas['ReleasePreview'] => ({
    figures: {
      all: tally(9),
      stayHeld: tally(4),
      stayKept: tally(3),
      keptLonger: tally(1),
      becomeDue: tally(2),
      free: tally(),
      byMonth: [{ month: '2027-03', items: 2 }],
      byContainer: [{ containerId: 9, items: 9, stayHeld: 4, becomeDue: 2 }],
    } as Schemas['ReleaseFigures'],
    day: '2026-07-16',
    containers: [{ id: 9, name: 'Harbour office' }],
    fingerprint: 'seen',
  })
  const dialog = async (more: Record<string, unknown> = {}) => {
    answers[path] ??= preview()
    const wrapper = await place(ReleaseDialog, {
      matter: { id: 2, delayDays: 30 },
      order: { id: 5, number: 1, name: 'The collision', revision: 1 },
      narrowed: null,
      days: 30,
      busy: false,
      problem: null,
      ...more,
    })
    await flushPromises()
    return wrapper
  }
  const body = () => document.body.querySelector('.el-dialog')!
  const button = (text: string) =>
    [...body().querySelectorAll('button')].find((b) => flat(b.textContent).includes(text))
  const reason = (text: string) => {
    const field = body().querySelector('textarea')!
    field.value = text
    field.dispatchEvent(new Event('input'))
    return flushPromises()
  }
  it('opens each figure above nought, and only those', async () => {
    await dialog()
    expect([...body().querySelectorAll('[data-group]')].map((b) => b.getAttribute('data-group'))).toEqual([
      'becomesDue',
      'staysHeld',
      'staysKept',
    ])
    expect(flat(body().textContent)).toContain(
      'Under retention until: March 2027 (2), permanently or until an event (1).',
    )
  })
  it('is asked for with its reason, its delay and the figures that were seen, and not without a reason', async () => {
    const wrapper = await dialog()
    const go = () => button('Ask for the release of 9 items')!
    expect(go().disabled || go().getAttribute('aria-disabled') === 'true').toBe(true)
    await reason('Settled out of court.')
    go().click()
    expect(wrapper.emitted('go')).toEqual([['Settled out of court.', 30, 'seen']])
    expect(calls(path)[0]!.body).toEqual({ narrowed: null })
  })
  it('tells whoever agrees who asked and why, and leaves the delay alone', async () => {
    await dialog({ asked: { askedBy: 'Vera Quist', why: 'Settled.' } })
    expect(flat(body().querySelector('.asked')!.textContent)).toBe('Vera Quist asks for it: “Settled.”')
    expect(body().querySelector('#r-delay')).toBeNull()
    expect(button('Release 9 items')).toBeDefined()
  })
  it('says a refusal of the preview in place of figures', async () => {
    answers[path] = new Error('The query ends too soon.')
    await dialog()
    await vi.waitFor(() =>
      expect(flat(body().querySelector('[role=alert]')?.textContent)).toBe('The query ends too soon.'),
    )
    expect(body().querySelector('.figures')).toBeNull()
  })
})
