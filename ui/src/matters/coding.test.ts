import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import BundlesTab from './BundlesTab.vue'
import CustodiansTab from './CustodiansTab.vue'
import HoldSentence from './HoldSentence.vue'
import MatterTags from './MatterTags.vue'
import SweepHits from './SweepHits.vue'
import { happened } from './words'

tidyUp()
standIn()
const tags = [
  { id: 1, name: 'Responsive', withholds: false, items: 2 },
  { id: 2, name: 'Privileged', withholds: true, items: 0 },
]
const code = { itemId: 7, tagId: 1, document: 0, note: 'at the pier', by: 'Vera Quist', at: '2026-06-12T08:00:00Z' }
const matter = (more: Record<string, unknown> = {}) =>
  ({
    id: 2,
    tags,
    part: 'lead',
    state: 'open',
    custodians: [],
    sweeps: [],
    orders: [],
    bundles: [],
    notices: [],
    nextControl: 1,
    controlPrefix: '',
    ...more,
  }) as unknown as Schemas['MatterView']
const item = (id: number, title: string) => ({
  id,
  title,
  state: 'held',
  container: 'Fleet',
  created: '2020-01-01',
  author: null,
})
beforeEach(() => {
  signedIn()
  answers['GET /api/matters/{id}/runs/{run}/items'] = {
    items: [item(7, 'letter'), item(8, 'report')],
    next: null,
    total: 2,
    bytes: 12,
    versions: [],
    codes: [code],
    families: [{ itemId: 7, attachments: ['plan.pdf'] }],
  }
  answers['POST /api/matters/{id}/runs/{run}/coding'] = { items: 1 }
  answers['GET /api/containers'] = []
})
const hits = (more: Record<string, unknown> = {}, query: Record<string, number | string> = {}) =>
  place(SweepHits, { matter: matter(more), run: 3, title: '2 items', query, words: 'pier' })
const asked = () => calls('POST /api/matters/{id}/runs/{run}/coding').at(-1)
const group = (name: string) => document.body.querySelector(`[aria-label="Tags of ${name}"]`)!
const pressed = (name: string) => [...group(name).querySelectorAll('button')].map((b) => b.getAttribute('aria-pressed'))
const key = async (name: string, at = 0) => {
  document.body
    .querySelectorAll('[aria-label="Items"] > li')
    [at]!.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true }))
  await flushPromises()
}

describe('coding what a sweep found', () => {
  it('shows which tags an item bears', async () => {
    await hits()
    expect(pressed('letter')).toEqual(['true', 'false'])
  })
  it('says who put a tag on, when and why', async () => {
    await hits()
    expect(group('letter').querySelector('button')?.title).toBe('Vera Quist, 12 Jun 2026: at the pier')
  })
  it('takes a tag off that is on', async () => {
    await hits()
    group('letter').querySelector('button')!.click()
    await flushPromises()
    expect(asked()?.body).toEqual({ tag: 1, on: false, items: [7], document: 0, note: '' })
  })
  it('codes an attachment by itself', async () => {
    await hits()
    group('plan.pdf').querySelectorAll('button')[1]!.click()
    await flushPromises()
    expect(asked()?.body).toMatchObject({ tag: 2, on: true, items: [7], document: 2 })
  })
  it('puts a tag on by its digit', async () => {
    await hits()
    await key('2', 1)
    expect(asked()?.body).toMatchObject({ tag: 2, on: true, items: [8], document: 0 })
  })
  it('does nothing for a digit without a tag', async () => {
    await hits()
    await key('3', 1)
    expect(asked()).toBeUndefined()
  })
  it('goes to the next item by j', async () => {
    await hits()
    await key('j')
    expect(document.activeElement?.textContent).toContain('report')
  })
  it('shows a reader the tags without a press', async () => {
    await hits({ part: 'reader' })
    expect([group('letter').querySelectorAll('button').length, group('letter').textContent?.trim()]).toEqual([
      0,
      'Responsive',
    ])
  })
  it('narrows what is shown by words of one’s own', async () => {
    await hits()
    await type('[aria-label="Words or a query among these"]', 'contact')
    document.body.querySelector('.bar form')!.dispatchEvent(new Event('submit'))
    await flushPromises()
    expect(calls('GET /api/matters/{id}/runs/{run}/items').at(-1)).toMatchObject({
      params: { query: { query: 'contact' } },
    })
  })
  it('offers no words beside a term that has its own', async () => {
    await hits({}, { term: 0 })
    expect(document.body.querySelector('[aria-label="Words or a query among these"]')).toBeNull()
  })
  it('offers no coding of a term alone, which is no list of the run', async () => {
    await hits({}, { term: 0, scope: 'alone' })
    expect(document.body.querySelector('.bar')).toBeNull()
  })
})

describe('tags of a matter', () => {
  it('begin with the usual ones', async () => {
    answers['POST /api/matters/{id}/tags'] = matter()
    const wrapper = await place(MatterTags, { matter: matter({ tags: [] }) })
    await wrapper.find('button').trigger('click')
    await flushPromises()
    expect(calls('POST /api/matters/{id}/tags').map((c) => c.body)).toEqual([
      { name: 'Responsive', withholds: false },
      { name: 'Not responsive', withholds: false },
      { name: 'Privileged', withholds: true },
    ])
  })
  it('say how many items bear each, and which withhold', async () => {
    const wrapper = await place(MatterTags, { matter: matter() })
    expect(wrapper.text().replace(/\s+/g, ' ')).toContain('Responsive 2Privileged 0, withheld')
  })
  it('open the items that bear one', async () => {
    answers['GET /api/matters/{id}/tags/{tag}/items'] = { items: [], next: null, total: 0, bytes: 0 }
    const wrapper = await place(MatterTags, { matter: matter() })
    await wrapper.find('[aria-label="2 items that bear Responsive"]').trigger('click')
    await flushPromises()
    expect(calls('GET /api/matters/{id}/tags/{tag}/items')[0]).toMatchObject({ params: { path: { id: 2, tag: 1 } } })
  })
  it('are removed only where nothing bears them', async () => {
    await place(MatterTags, { matter: matter() })
    await press('Change …')
    expect([...document.body.querySelectorAll('.el-dialog tr button')].map((b) => b.textContent)).toEqual([
      'Change',
      'Change',
      'Remove',
    ])
  })
  it('are called otherwise in place', async () => {
    answers['PUT /api/matters/{id}/tags/{tag}'] = matter()
    await place(MatterTags, { matter: matter() })
    await press('Change …')
    await press('Change')
    await type('#t-name', 'In scope')
    await press('Save')
    expect(calls('PUT /api/matters/{id}/tags/{tag}')[0]).toMatchObject({
      params: { path: { id: 2, tag: 2 } },
      body: { name: 'In scope', withholds: true },
    })
  })
  it('stand in the history of the matter', () => {
    expect(happened({ verb: 'coded', before: null, after: { tag: 'Privileged', items: 3 } } as never)).toBe(
      '3 items coded “Privileged”',
    )
  })
})

describe('a bundle', () => {
  const run = { id: 4, at: '2026-06-15T08:00:00Z', state: 'done', items: 5, bytes: 1, failure: null, figures: null }
  it('says what its tags withhold before it is made', async () => {
    await place(BundlesTab, { matter: matter({ sweeps: [{ id: 3, name: 'Pier', last: run }] }) })
    await press('Make a bundle')
    expect(document.body.textContent?.replace(/\s+/g, ' ')).toContain('What bears “Privileged” stays out')
  })
  it('says how many documents were withheld', async () => {
    const bundle = { id: 1, name: 'First', state: 'done', withheld: 2, options: {}, documents: 3, items: 3, bytes: 1 }
    const wrapper = await place(BundlesTab, { matter: matter({ bundles: [bundle] }) })
    expect(wrapper.text()).toContain('2 documents; the privilege log names them')
  })
})

describe('a place that was found', () => {
  const custodian = {
    id: 5,
    name: 'Anna Brand',
    containers: [],
    foundPlaces: [{ id: 9, name: 'anna-archive', source: 'Share' }],
    authored: true,
    daysOutstanding: null,
  }
  const shown = (more: Record<string, unknown> = {}) =>
    place(CustodiansTab, { matter: matter({ custodians: [custodian], ...more }) })
  it('is decided by one press', async () => {
    answers['PUT /api/matters/{id}/custodians/{custodian}/found/{place}'] = matter()
    await shown()
    await press('It is theirs')
    expect(calls('PUT /api/matters/{id}/custodians/{custodian}/found/{place}')[0]).toMatchObject({
      params: { path: { id: 2, custodian: 5, place: 9 } },
      body: { theirs: true },
    })
  })
  it('stays kept where it is not theirs, and the page says so', async () => {
    const wrapper = await shown()
    expect(wrapper.text()).toContain('stays kept by the orders in force; a release lets it go')
  })
  it('is not decided by a reader', async () => {
    const wrapper = await shown({ part: 'reader' })
    expect([wrapper.text().includes('anna-archive'), !!button('It is theirs')]).toEqual([true, false])
  })
})

describe('a list of ids', () => {
  const shown = () =>
    place(HoldSentence, {
      definition: { containers: [], custodians: [], query: null, from: null, to: null, items: [7] },
      custodians: [],
      verb: 'Find',
      editable: true,
    })
  it('is named in the sentence', async () => {
    expect((await shown()).text().replace(/\s+/g, ' ')).toContain('1 listed item of the whole unit')
  })
  it('is taken from whatever parts its numbers, each once', async () => {
    const wrapper = await shown()
    await press('1 listed item')
    await type('#hold-items', '7, 8;9\n8')
    expect(wrapper.emitted('change')?.at(-1)).toMatchObject([{ items: [7, 8, 9] }])
  })
  it('with a word in it is not taken', async () => {
    const wrapper = await shown()
    await press('1 listed item')
    await type('#hold-items', '7, eight')
    expect([document.body.textContent?.includes('“eight” is not the id'), wrapper.emitted('change')]).toEqual([
      true,
      undefined,
    ])
  })
})
