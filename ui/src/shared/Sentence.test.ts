import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import Sentence from './Sentence.vue'
import { tidyUp } from './testing'
import { stageOf } from './words'

type Definition = Schemas['SeriesDefinition']
const clause = (part: Partial<Schemas['ClauseText']> = {}): Schemas['ClauseText'] => ({
  trigger: 'created',
  cutoff: 'fiscal',
  period: 'P7Y',
  ...part,
})
const definition = (part: Partial<Definition> = {}): Definition => ({
  title: 'Voyage reports',
  description: '',
  guidance: '',
  descriptors: { function: 'Vessels', activity: '', subActivity: '', department: '', tags: [] },
  owner: '',
  authorities: [],
  permanent: false,
  join: 'later',
  clauses: [clause()],
  atEnd: 'signOff',
  grade: 'kept',
  ratchet: false,
  graceDays: 90,
  stages: [stageOf('steward'), stageOf('recordsManager')],
  ...part,
})
const sentence = (
  part: Partial<Definition> = {},
  more: { inForce?: Definition | null; editable?: boolean; fields?: string[]; events?: string[] } = {},
) => mount(Sentence, { props: { definition: definition(part), editable: true, ...more }, attachTo: document.body })
const told = (wrapper: ReturnType<typeof sentence>) =>
  wrapper
    .get('.sentence')
    .text()
    .replace(/\u2060/g, '')
    .replace(/\s+/g, ' ')
    .replace(/ ([.;])/g, '$1')
const changes = (wrapper: ReturnType<typeof sentence>) => (wrapper.emitted('change') ?? []).map(([c]) => c)
/** Popovers are put at the end of the page, so they are found there. */
const inPage = <E extends Element>(selector: string) => document.body.querySelector<E & HTMLElement>(selector)!

async function openPart(wrapper: ReturnType<typeof sentence>, part: string) {
  await wrapper.get(`[data-part=${part}]`).trigger('click')
  await flushPromises()
}

tidyUp()

describe('the sentence of a rule', () => {
  it.each<[Partial<Definition>, string]>([
    [
      {},
      'Keep 7 years after the end of the fiscal year in which it was created; ' +
        'then a steward and a records manager sign off and it is destroyed.',
    ],
    [
      { clauses: [clause({ cutoff: 'none', trigger: 'modified', period: 'P1Y' })] },
      'Keep 1 year after the day on which it was last modified; then a steward and a records manager sign off and it is destroyed.',
    ],
    [
      { clauses: [clause({ trigger: 'field:contract-ended', cutoff: 'month' })], atEnd: 'nothing', stages: [] },
      'Keep 7 years after the end of the month in which its “contract ended” date falls; then nothing happens.',
    ],
    [{ permanent: true }, 'Keep permanently.'],
    [
      {
        clauses: [
          clause({ cutoff: 'none', trigger: 'field:hired', period: 'P3Y' }),
          clause({ cutoff: 'none', trigger: 'event:crew-member-left', period: 'P1Y' }),
        ],
        atEnd: 'nothing',
      },
      'Keep until the later of 3 years after the day on which its “hired” date falls and ' +
        '1 year after the day on which “crew member left” happened to its subject; then nothing happens.',
    ],
    [
      {
        join: 'earlier',
        clauses: [
          clause(),
          clause({ trigger: 'filed', cutoff: 'month' }),
          clause({ trigger: 'modified', cutoff: 'year' }),
        ],
        atEnd: 'nothing',
      },
      'Keep until the earlier of 7 years after the end of the fiscal year in which it was created, ' +
        '7 years after the end of the month in which it was filed and ' +
        '7 years after the end of the calendar year in which it was last modified; then nothing happens.',
    ],
    [
      { stages: [stageOf('recordsManager')] },
      'Keep 7 years after the end of the fiscal year in which it was created; then a records manager signs off and it is destroyed.',
    ],
  ])('is right English for %j', (part, text) => {
    expect(told(sentence(part))).toBe(text)
  })

  it('strikes what rules now beside each part that differs, and nothing else', () => {
    const wrapper = sentence({ clauses: [clause({ period: 'P5Y' })] }, { inForce: definition() })
    expect(wrapper.findAll('s').map((s) => s.text())).toEqual(['7 years'])
    expect(wrapper.get('[data-part=term]').classes()).toContain('changed')
    expect(wrapper.get('[data-part=cutoff]').classes()).not.toContain('changed')
  })

  it('cannot be pressed by somebody who may not write it', () => {
    expect(
      sentence({}, { editable: false })
        .findAll('button.part')
        .every((b) => b.attributes('disabled') !== undefined),
    ).toBe(true)
  })

  it('changes the number and leaves the unit', async () => {
    const wrapper = sentence({ clauses: [clause({ period: 'P18M' })] })
    await openPart(wrapper, 'term')
    const input = inPage<HTMLInputElement>('#period-count')
    input.value = '24'
    input.dispatchEvent(new Event('change'))
    expect(changes(wrapper)).toEqual([{ clauses: [clause({ period: 'P24M' })] }])
  })

  it('takes a number below none for none: until the event, until the end of the year', async () => {
    const wrapper = sentence()
    await openPart(wrapper, 'term')
    const input = inPage<HTMLInputElement>('#period-count')
    input.value = '-3'
    input.dispatchEvent(new Event('change'))
    expect(changes(wrapper)).toEqual([{ clauses: [clause({ period: 'P0Y' })] }])
  })

  it('offers the date fields that items have and the events that are known, and closes when one is taken', async () => {
    const wrapper = sentence({}, { fields: ['contract-ended', 'signed'], events: ['vessel-sold'] })
    await openPart(wrapper, 'trigger')
    const options = [
      ...document.body.querySelectorAll<HTMLElement>(
        '[role=listbox][aria-label="Where the clock starts"] [role=option]',
      ),
    ]
    expect(options.map((o) => o.textContent)).toEqual([
      'it was created',
      'it was last modified',
      'it was filed',
      'its “contract ended” date falls',
      'its “signed” date falls',
      '“vessel sold” happened to its subject',
    ])
    options[3]!.click()
    await flushPromises()
    expect(changes(wrapper)).toEqual([{ clauses: [clause({ trigger: 'field:contract-ended' })] }])
    expect(wrapper.get('[data-part=trigger]').attributes('aria-expanded')).toBe('false')
  })

  it('adds a second clock, joins it, and takes one away again', async () => {
    const wrapper = sentence()
    await openPart(wrapper, 'term')
    const press = async (label: string) => {
      ;[...document.body.querySelectorAll('button')]
        .filter((b) => b.textContent?.trim() === label)
        .at(-1)!
        .click()
      await flushPromises()
    }
    await press('Add another clock')
    expect(changes(wrapper)).toEqual([{ clauses: [clause(), clause({ cutoff: 'none' })] }])
    await wrapper.setProps({ definition: definition({ clauses: [clause(), clause({ cutoff: 'none' })] }) })
    await openPart(wrapper, 'join')
    await press('earlier: of those that have a date')
    expect(changes(wrapper)[1]).toEqual({ join: 'earlier' })
    await openPart(wrapper, 'term-2')
    await press('Remove this clock')
    expect(changes(wrapper)[2]).toEqual({ clauses: [clause()] })
  })

  it('names two signers when an end that had none asks for sign-off', async () => {
    const wrapper = sentence({ atEnd: 'nothing', stages: [] })
    await openPart(wrapper, 'end')
    inPage<HTMLInputElement>('input[name=at-end]').dispatchEvent(new Event('change'))
    expect(changes(wrapper)).toEqual([
      { atEnd: 'signOff', stages: [stageOf('recordsManager'), stageOf('recordsManager')] },
    ])
  })
})
