import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import BaselineChart from './BaselineChart.vue'
import LengthEditor from './LengthEditor.vue'
import { lengthWords, measureWords, ofKind, ruleSentence } from './watchWords'

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

describe('a measure', () => {
  it('of distinct addresses is said so', () => expect(measureWords('distinct:address')).toBe('different addresses'))
  it('is events where nothing is said', () => expect(measureWords(undefined)).toBe('events'))
})

describe('a rule', () => {
  it('of another kind keeps the events that count', () =>
    expect(ofKind({ kind: 'each', where: 'action = role.add' }, 'count').where).toBe('action = role.add'))
  it('of another kind begins with sound parts', () => expect(ofKind({ kind: 'each' }, 'silence').for).toBe('PT6H'))
  it('of a count is one sentence', () =>
    expect(
      ruleSentence({
        kind: 'count',
        per: 'actor',
        of: 'events',
        threshold: 5,
        within: 'PT1H',
        where: 'action = file.delete',
      }),
    ).toBe('5 or more events within 1 hour by one person where action = file.delete'))
  it('of a first application has the right article', () =>
    expect(ruleSentence({ kind: 'first', dimension: 'application', scope: 'peers' })).toContain('An application'))
  it('of silence says for how long', () =>
    expect(ruleSentence({ kind: 'silence', for: 'P3D' })).toBe('No event for 3 days'))
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
