import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import Reasons from './Reasons.vue'
import StateMark from './StateMark.vue'
import Tideline from './Tideline.vue'
import { stateWords, type ItemState } from './words'

const line = (part: Partial<Schemas['TidelineView']> = {}) =>
  mount(Tideline, {
    props: {
      line: {
        start: '2019-03-31',
        cutoff: '2019-09-30',
        keepUntil: '2026-09-30',
        disposableFrom: '2026-10-01',
        ...part,
      },
      today: '2026-06-15',
      from: '2016-01-01',
      to: '2036-01-01',
    },
  })
const at = (wrapper: ReturnType<typeof line>, selector: string, name: string) =>
  Number(wrapper.get(selector).attributes(name))

describe('a tideline', () => {
  it('says in words what it draws', () => {
    expect(line().attributes('aria-label')).toBe('from 31 Mar 2019, cutoff 30 Sep 2019, kept through 30 Sep 2026')
    expect(line({ cutoff: '2019-03-31' }).attributes('aria-label')).toBe('from 31 Mar 2019, kept through 30 Sep 2026')
    expect(line({ keepUntil: '2026-06-14' }).attributes('aria-label')).toContain('passed')
    expect(line({ keepUntil: 'permanent', cutoff: null }).attributes('aria-label')).toBe('kept permanently')
    expect(line({ keepUntil: 'awaiting-event', start: null, cutoff: null }).attributes('aria-label')).toBe(
      'waits for a date',
    )
    expect(line({ keepUntil: null }).attributes('aria-label')).toBe('nothing keeps it')
  })
  it('has not passed on its last day', () => {
    expect(line({ keepUntil: '2026-06-15' }).find('.until.passed').exists()).toBe(false)
    expect(line({ keepUntil: '2026-06-14' }).find('.until.passed').exists()).toBe(true)
  })
  it('puts trigger, cutoff and end in their order on the axis', () => {
    const wrapper = line()
    const [trigger, cutoff, end] = [
      at(wrapper, '.trigger', 'cx'),
      at(wrapper, '.cutoff', 'x1'),
      at(wrapper, '.term', 'x2'),
    ]
    expect(trigger).toBeLessThan(cutoff)
    expect(cutoff).toBeLessThan(at(wrapper, '.today', 'x1'))
    expect(at(wrapper, '.today', 'x1')).toBeLessThan(end)
  })
  it('draws twice the time twice as long', () => {
    const short = line({ start: '2020-01-01', cutoff: null, keepUntil: '2022-01-01' })
    const long = line({ start: '2020-01-01', cutoff: null, keepUntil: '2024-01-01' })
    const length = (w: typeof short) => at(w, '.term', 'x2') - at(w, '.term', 'x1')
    expect(length(long) / length(short)).toBeCloseTo(2, 2)
  })
  it('keeps what lies beyond the axis at its end', () => {
    expect(at(line({ keepUntil: '2090-01-01' }), '.term', 'x2')).toBe(116)
    expect(at(line({ start: '1990-01-01' }), '.trigger', 'cx')).toBe(4)
  })
})

describe('a state', () => {
  it('is told by a word and by a shape of its own', () => {
    const shapes = (Object.keys(stateWords) as ItemState[]).map((state) => {
      const wrapper = mount(StateMark, { props: { state } })
      expect(wrapper.text()).toBe(stateWords[state])
      return wrapper.get('svg').html()
    })
    expect(new Set(shapes).size).toBe(shapes.length)
  })
})

describe('reasons', () => {
  it('say which one decides to those who cannot see the mark', () => {
    const wrapper = mount(Reasons, {
      props: {
        reasons: [
          {
            rule: 'VES-010',
            kind: 'series',
            won: true,
            keepUntil: '2026-09-30',
            clauses: [],
            why: 'The longest wins.',
          },
          { rule: 'All mail', kind: 'blanket', won: false, keepUntil: '2020-01-01', clauses: [], why: 'It ran out.' },
        ],
      },
    })
    expect(wrapper.findAll('li').map((l) => l.text().replace(/\s+/g, ' '))).toEqual([
      'VES-010: 30 Sep 2026 (decides)The longest wins.',
      'All mail: 1 Jan 2020 (does not decide)It ran out.',
    ])
  })
})
