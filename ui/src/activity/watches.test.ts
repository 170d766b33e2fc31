import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { answers, place, signedIn, standIn, tidyUp } from '@/shared/testing'
import BaselineChart from './BaselineChart.vue'
import LengthEditor from './LengthEditor.vue'
import WatchPartEditor from './WatchPartEditor.vue'
import WatchSentence from './WatchSentence.vue'
import { kindOf, lengthWords, ofKind, partWords, ruleSentence, type Kind } from './watchWords'

tidyUp()
standIn()
beforeEach(() => signedIn('readActivity', 'manageWatches'))

describe('a length of time', () => {
  it.each([
    ['PT1H', '1 hour'],
    ['PT10M', '10 minutes'],
    ['P7D', '7 days'],
    ['PT1H30M', 'PT1H30M'],
    [null, '…'],
  ])('%s is said as %s', (iso, words) => expect(lengthWords(iso)).toBe(words))
  it('is edited as a number and a unit', async () => {
    const editor = mount(LengthEditor, { props: { value: 'PT2H' } })
    await editor.get('input').setValue(5)
    expect(editor.emitted('change')![0]).toEqual(['PT5H'])
  })
})

const per = {
  name: 'per',
  label: 'Whose',
  editor: 'choice' as const,
  beginning: 'actor',
  otherwise: 'none',
  choices: [
    { value: 'actor', words: 'one person' },
    { value: 'none', words: 'all together' },
  ],
}
const kinds: Kind[] = [
  { code: 'each', kind: 'each', words: 'it happens', sentence: 'each event', parts: [], usual: false },
  {
    code: 'count',
    kind: 'count',
    words: 'there is much of it',
    sentence: '{threshold} events within {within} by {per}',
    usual: false,
    moves: 'threshold',
    parts: [
      { name: 'threshold', label: 'Threshold', editor: 'number', beginning: 10, words: '# or more' },
      { name: 'within', label: 'Within', editor: 'length', beginning: 'PT1H' },
      per,
    ],
  },
  { code: 'usual', kind: 'count', words: 'more than usual', sentence: 'far more by {per}', usual: true, parts: [per] },
]
const usual = kinds[2]!

describe('a rule', () => {
  it('of another kind keeps the events that count', () =>
    expect(ofKind({ kind: 'each', where: 'action = role.add' }, usual).where).toBe('action = role.add'))
  it('of another kind begins with sound parts', () => expect(ofKind({ kind: 'each' }, usual).per).toBe('actor'))
  it('with usual instead of a threshold says so in its file', () =>
    expect(ofKind({ kind: 'each' }, usual).usual).toBe(true))
  it('with usual is distinguished from one with a threshold', () =>
    expect(kindOf(kinds, { kind: 'count', usual: true })).toBe(usual))
  it('is one sentence, with the events that count', () =>
    expect(
      ruleSentence(kinds, {
        kind: 'count',
        per: 'actor',
        threshold: 1500,
        within: 'PT1H',
        where: 'action = file.delete',
        except: 'actor = backup',
      }),
    ).toBe('1,500 or more events within 1 hour by one person where action = file.delete, except actor = backup'))
  it('says what holds where it names no part', () =>
    expect(ruleSentence(kinds, { kind: 'count', usual: true })).toBe('Far more by all together'))
  it('says nothing before the kinds are known', () => expect(ruleSentence(undefined, { kind: 'each' })).toBe(''))
  it('shows a value that no choice has as it stands', () =>
    expect(partWords(per, { kind: 'count', per: 'ship' })).toBe('ship'))
})

const sentence = async () => {
  answers['GET /api/watches/kinds'] = kinds
  return place(WatchSentence, {
    editable: true,
    settings: {
      name: 'w',
      severity: 'low',
      dailyCap: 5,
      words: '',
      rule: { kind: 'count', threshold: 10, within: 'PT1H' },
    },
  })
}

describe('the sentence of a watch', () => {
  it('names the parts of its kind in their place', async () =>
    expect((await sentence()).text().replace(/\s+/g, ' ')).toContain(
      'when there is much of it – 10 or more events within 1 hour by all together, among all events',
    ))
  it('offers every kind', async () => {
    const wrapper = await sentence()
    await wrapper.get('[data-part=kind]').trigger('click')
    expect(
      [...document.querySelectorAll('[aria-label="What it looks for"] [role=option]')].map((o) =>
        o.textContent?.trim(),
      ),
    ).toEqual(kinds.map((k) => k.words))
  })
})

describe('the editor of a part', () => {
  const editor = (part: number, rule = {}) =>
    mount(WatchPartEditor, { props: { part: kinds[1]!.parts[part]!, rule: { kind: 'count', ...rule } } })
  it('changes a number', async () => {
    const wrapper = editor(0, { threshold: 10 })
    await wrapper.get('input').setValue(25)
    expect(wrapper.emitted('change')![0]).toEqual([{ threshold: 25 }])
  })
  it('changes a length of time', async () => {
    const wrapper = editor(1, { within: 'PT2H' })
    await wrapper.get('input').setValue(5)
    expect(wrapper.emitted('change')![0]).toEqual([{ within: 'PT5H' }])
  })
  it('closes when a choice is made', async () => {
    const wrapper = editor(2)
    await wrapper.get('[role=option]').trigger('click')
    expect([wrapper.emitted('change')![0], wrapper.emitted('done')?.length]).toEqual([[{ per: 'actor' }], 1])
  })
  it('marks what holds where the rule says nothing', () =>
    expect(editor(2).get('[aria-selected=true]').text()).toBe('all together'))
})

describe('a baseline', () => {
  const baseline = {
    measure: 40,
    cell: 'the same hour of the week',
    hours: [1, 2, 3],
    median: 2,
    band: 1.48,
    mean: 1.6,
    variance: 1,
    tail: 30,
  }
  it('says every number that it is computed from', () =>
    expect(mount(BaselineChart, { props: { baseline } }).text()).toContain('m + 3s = 6.44'))
  it('says so where there is too little history', () =>
    expect(mount(BaselineChart, { props: { baseline: { ...baseline, hours: [] } } }).text()).toContain(
      'too little history',
    ))
})
