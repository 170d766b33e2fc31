import { enableAutoUnmount, flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import type { Schemas } from './api/client'
import Sentence from './Sentence.vue'

type Definition = Schemas['SeriesDefinition']
const definition = (part: Partial<Definition> = {}): Definition => ({
  title: 'Voyage reports', description: '', guidance: '', function: 'Vessels', authority: '', permanent: false, trigger: 'created', cutoff: 'fiscal', period: 'P7Y', atEnd: 'signOff', graceDays: 90,
  stages: [{ role: 'steward' }, { role: 'recordsManager' }], ...part,
})
const sentence = (part: Partial<Definition> = {}, more: { inForce?: Definition | null; editable?: boolean; fields?: string[] } = {}) =>
  mount(Sentence, { props: { definition: definition(part), editable: true, ...more }, attachTo: document.body })
const told = (wrapper: ReturnType<typeof sentence>) => wrapper.get('.sentence').text().replace(/\s+/g, ' ').replace(/ ([.;])/g, '$1')
const changes = (wrapper: ReturnType<typeof sentence>) => (wrapper.emitted('change') ?? []).map(([c]) => c)
/** Popovers are put at the end of the page, so they are found there. */
const inPage = <E extends Element>(selector: string) => document.body.querySelector<E & HTMLElement>(selector)!

async function openPart(wrapper: ReturnType<typeof sentence>, part: string) {
  await wrapper.get(`[data-part=${part}]`).trigger('click')
  await flushPromises()
}

enableAutoUnmount(afterEach)

describe('the sentence of a rule', () => {
  it.each<[Partial<Definition>, string]>([
    [{}, 'Keep 7 years after the end of the fiscal year in which it was created; then a steward and a records manager sign off and it is destroyed.'],
    [{ cutoff: 'none', trigger: 'modified', period: 'P1Y' }, 'Keep 1 year after the day on which it was last modified; then a steward and a records manager sign off and it is destroyed.'],
    [{ trigger: 'field:contract-ended', cutoff: 'month', atEnd: 'nothing', stages: [] }, 'Keep 7 years after the end of the month in which its “contract ended” date falls; then nothing happens.'],
    [{ permanent: true }, 'Keep permanently.'],
    [{ stages: [{ role: 'recordsManager' }] }, 'Keep 7 years after the end of the fiscal year in which it was created; then a records manager signs off and it is destroyed.'],
  ])('is right English for %j', (part, text) => {
    expect(told(sentence(part))).toBe(text)
  })

  it('strikes what rules now beside each part that differs, and nothing else', () => {
    const wrapper = sentence({ period: 'P5Y' }, { inForce: definition() })
    expect(wrapper.findAll('s').map((s) => s.text())).toEqual(['7 years'])
    expect(wrapper.get('[data-part=term]').classes()).toContain('changed')
    expect(wrapper.get('[data-part=cutoff]').classes()).not.toContain('changed')
  })

  it('cannot be pressed by somebody who may not write it', () => {
    expect(sentence({}, { editable: false }).findAll('button.part').every((b) => b.attributes('disabled') !== undefined)).toBe(true)
  })

  it('changes the number and leaves the unit', async () => {
    const wrapper = sentence({ period: 'P18M' })
    await openPart(wrapper, 'term')
    const input = inPage<HTMLInputElement>('#period-count')
    input.value = '24'
    input.dispatchEvent(new Event('change'))
    expect(changes(wrapper)).toEqual([{ permanent: false, period: 'P24M' }])
  })

  it('keeps a number below one at one', async () => {
    const wrapper = sentence()
    await openPart(wrapper, 'term')
    const input = inPage<HTMLInputElement>('#period-count')
    input.value = '-3'
    input.dispatchEvent(new Event('change'))
    expect(changes(wrapper)).toEqual([{ permanent: false, period: 'P1Y' }])
  })

  it('offers the date fields that items have, and closes when one is taken', async () => {
    const wrapper = sentence({}, { fields: ['contract-ended', 'signed'] })
    await openPart(wrapper, 'trigger')
    const options = [...document.body.querySelectorAll<HTMLElement>('[role=listbox][aria-label="Where the clock starts"] [role=option]')]
    expect(options.map((o) => o.textContent)).toEqual(['it was created', 'it was last modified', 'its “contract ended” date falls', 'its “signed” date falls'])
    options[2]!.click()
    await flushPromises()
    expect(changes(wrapper)).toEqual([{ trigger: 'field:contract-ended' }])
    expect(wrapper.get('[data-part=trigger]').attributes('aria-expanded')).toBe('false')
  })

  it('names two signers when an end that had none asks for sign-off', async () => {
    const wrapper = sentence({ atEnd: 'nothing', stages: [] })
    await openPart(wrapper, 'end')
    inPage<HTMLInputElement>('input[name=at-end]').dispatchEvent(new Event('change'))
    expect(changes(wrapper)).toEqual([{ atEnd: 'signOff', stages: [{ role: 'recordsManager' }, { role: 'recordsManager' }] }])
  })
})
