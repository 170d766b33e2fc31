import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { api, type Schemas } from '@/shared/api/client'
import MarkedText from '@/shared/MarkedText.vue'
import { tidyUp } from '@/shared/testing'
import { indexWords, relationWords } from '@/shared/words'
import QueryBuilder from './QueryBuilder.vue'
import QueryGroup, { type Form } from './QueryGroup.vue'
import QueryField from '@/shared/QueryField.vue'

tidyUp()
const indexes: Schemas['IndexView'][] = [
  { name: 'text', kind: 'words', relations: ['=', 'all', '=='] },
  { name: 'created', kind: 'dates', relations: ['=', '<', '>'] },
  { name: 'series', kind: 'names', relations: ['=', 'any'] },
]
const row = (part: Partial<Schemas['QueryFormRow']>): Schemas['QueryFormRow'] => ({
  not: false,
  test: null,
  group: null,
  near: null,
  text: null,
  ...part,
})
const test = (index: string, relation: string, term: string, stem = false) => ({ index, relation, term, stem })
const changes = (wrapper: { emitted: (name: string) => unknown[][] | undefined }) =>
  (wrapper.emitted('change') ?? []).map(([f]) => f as Form)

describe('marked text', () => {
  const parts = (props: InstanceType<typeof MarkedText>['$props']) => mount(MarkedText, { props }).html()
  it('marks what was found and leaves every character where it was', () => {
    const wrapper = mount({
      components: { MarkedText },
      template:
        '<p><MarkedText text="The pier 4 pier" :marks="[{ start: 4, length: 4 }, { start: 11, length: 4 }]" /></p>',
    })
    expect(wrapper.text()).toBe('The pier 4 pier')
    expect(wrapper.findAll('mark').map((m) => m.text())).toEqual(['pier', 'pier'])
  })
  it('shows a find and a mark that overlap as both', () => {
    const wrapper = mount({
      components: { MarkedText },
      template: `<p><MarkedText text="IBAN GB82 x" :marks="[{ start: 5, length: 2 }]"
        :finds="[{ start: 5, length: 4, kind: 'iban', title: 'iban, certain' }]" /></p>`,
    })
    expect(wrapper.find('mark.find').text()).toBe('GB')
    expect(wrapper.find('span.find').text()).toBe('82')
    expect(wrapper.find('span.find').attributes('title')).toBe('iban, certain')
    expect(wrapper.text()).toBe('IBAN GB82 x')
  })
  it('never reads a text as a page', () => {
    expect(parts({ text: '<img src=x onerror=alert(1)>' })).toContain('&lt;img')
  })
})

describe('a query as rows', () => {
  const group = (form: Form) => mount(QueryGroup, { props: { form, indexes } })
  it('says each index and relation in words that make a sentence with “must”', () => {
    expect(indexWords('field.contract-ended')).toBe('“contract ended” field')
    expect(['=', '<', '>', '<>'].map((r) => relationWords(r, 'dates'))).toEqual([
      'be on or in',
      'be before',
      'be after',
      'be other than',
    ])
    expect(relationWords('=', 'kinds')).toBe('be')
    expect(relationWords('encloses', 'dates')).toBe('encloses')
  })
  it('keeps a relation that the new index knows, and takes the plain one where it does not', async () => {
    const wrapper = group({ anyOf: false, rows: [row({ test: test('text', 'all', 'pier', true) })] })
    await wrapper.get('[aria-label="Row 1: index"]').setValue('created')
    expect(changes(wrapper)[0]!.rows[0]!.test).toEqual(test('created', '=', 'pier'))
    await wrapper.setProps({ form: { anyOf: false, rows: [row({ test: test('created', '=', '2024') })] } })
    await wrapper.get('[aria-label="Row 1: index"]').setValue('series')
    expect(changes(wrapper)[1]!.rows[0]!.test!.relation).toBe('=')
  })
  it('offers other forms of a word only where there are words', () => {
    const wrapper = group({
      anyOf: false,
      rows: [row({ test: test('text', '=', 'pier') }), row({ test: test('created', '>', '2024') })],
    })
    expect(wrapper.findAll('.stem')).toHaveLength(1)
  })
  it('offers the last days, and writes them as a comparison with today', async () => {
    const wrapper = group({ anyOf: false, rows: [row({ test: test('created', '>', 'today-P30D') })] })
    expect((wrapper.get('[aria-label="Row 1: relation"]').element as HTMLSelectElement).value).toBe('last')
    await wrapper.get('[aria-label="Row 1: days"]').setValue('7')
    expect(changes(wrapper)[0]!.rows[0]!.test).toEqual(test('created', '>', 'today-P7D'))
    await wrapper.get('[aria-label="Row 1: relation"]').setValue('<')
    expect(changes(wrapper)[1]!.rows[0]!.test).toEqual(test('created', '<', ''))
    await wrapper.setProps({ form: { anyOf: false, rows: [row({ test: test('created', '<', '2024') })] } })
    await wrapper.get('[aria-label="Row 1: relation"]').setValue('last')
    expect(changes(wrapper)[2]!.rows[0]!.test).toEqual(test('created', '>', 'today-P30D'))
  })
  it('removes a row, adds one, and opens a group joined the other way', async () => {
    const wrapper = group({
      anyOf: false,
      rows: [row({ test: test('text', '=', 'a') }), row({ test: test('text', '=', 'b') })],
    })
    await wrapper.get('[aria-label="Remove row 1"]').trigger('click')
    const [addRow, , addGroup] = wrapper.findAll('.adds button')
    await addRow!.trigger('click')
    await addGroup!.trigger('click')
    const [removed, added, grouped] = changes(wrapper)
    expect(removed!.rows.map((r) => r.test!.term)).toEqual(['b'])
    expect(added!.rows).toHaveLength(3)
    expect(grouped!.rows[2]!.group!.anyOf).toBe(true)
  })
  it('shows what rows cannot say as it is written, and lets it be removed', () => {
    const wrapper = group({ anyOf: true, rows: [row({ text: 'a prox/distance>4 b' })] })
    expect(wrapper.get('code').text()).toBe('a prox/distance>4 b')
    expect(wrapper.find('[aria-label="Remove row 1"]').exists()).toBe(true)
  })
  it('a change deep within a group keeps everything around it', async () => {
    const inner = { anyOf: true, rows: [row({ test: test('text', '=', 'a') }), row({ test: test('text', '=', 'b') })] }
    const wrapper = group({
      anyOf: false,
      rows: [row({ group: inner }), row({ not: true, test: test('series', '=', 'c') })],
    })
    await wrapper.findAll('[aria-label="Row 2: value"]')[0]!.setValue('z')
    await wrapper.findAll('[aria-label="Row 2: value"]')[0]!.trigger('change')
    const changed = changes(wrapper).at(-1)!
    expect(changed.rows[0]!.group!.rows.map((r) => r.test!.term)).toEqual(['a', 'z'])
    expect(changed.rows[1]).toEqual(row({ not: true, test: test('series', '=', 'c') }))
  })
})

describe('the search field and the rows', () => {
  const answer = (data: unknown) => Promise.resolve({ data, response: new Response() }) as never
  const reading = (text: string, part: Partial<Schemas['QueryReading']> = {}): Schemas['QueryReading'] => ({
    text,
    form: { anyOf: false, rows: [] },
    sortBy: '',
    mistake: null,
    ...part,
  })
  const post = vi.spyOn(api, 'POST')
  const get = vi.spyOn(api, 'GET')
  beforeEach(() => {
    vi.useFakeTimers()
    post.mockReset()
    get.mockReset()
  })
  afterEach(() => vi.useRealTimers())
  const field = (modelValue = '') => mount(QueryField, { props: { modelValue }, attachTo: document.body })
  async function type(wrapper: ReturnType<typeof field>, text: string) {
    await wrapper.get('input').setValue(text)
    await vi.advanceTimersByTimeAsync(300)
    await flushPromises()
  }

  it('asks a query once it can be asked, and shows what plain words stand for', async () => {
    post.mockImplementation(() => answer(reading('text all "pier four"')))
    const wrapper = field()
    await type(wrapper, 'pier four')
    expect(wrapper.emitted('update:modelValue')).toEqual([['pier four']])
    expect(wrapper.get('.asked').text()).toBe('asks for text all "pier four"')
  })
  it('asks nothing where there is a mistake, and underlines its place', async () => {
    post.mockImplementation(() =>
      answer(
        reading('title = a and creatd > 1', {
          mistake: { sentence: 'At character 15: no such index.', at: 14, length: 6 },
        }),
      ),
    )
    const wrapper = field()
    await type(wrapper, 'title = a and creatd > 1')
    expect(wrapper.emitted('update:modelValue')).toBeUndefined()
    expect(wrapper.get('.mistake u').text()).toBe('creatd')
    expect(wrapper.get('input').attributes('aria-invalid')).toBe('true')
  })
  it('is quiet about a query that is not finished yet', async () => {
    post.mockImplementation(() =>
      answer(
        reading('pier and', {
          mistake: { sentence: 'At character 9: expected a term, but the query ends.', at: 8, length: 0 },
        }),
      ),
    )
    const wrapper = field()
    await type(wrapper, 'pier and')
    expect(wrapper.find('[role=alert]').exists()).toBe(false)
    expect(wrapper.get('.asked').text()).toContain('Next: a term.')
  })
  it('believes the last answer that it asked for, whichever comes last', async () => {
    const late: ((r: unknown) => void)[] = []
    post.mockImplementation(
      (() => new Promise((done) => late.push((r) => done({ data: r, response: new Response() })))) as never,
    )
    const wrapper = field()
    await type(wrapper, 'pie')
    await type(wrapper, 'pier')
    late[1]!(reading('pier'))
    late[0]!(reading('pie'))
    await flushPromises()
    expect(wrapper.emitted('update:modelValue')).toEqual([['pier']])
  })
  it('rows become text, and a row without a value asks nothing', async () => {
    get.mockImplementation(() => answer(indexes))
    post.mockImplementation(((path: string) =>
      answer(
        path.endsWith('reading')
          ? reading('', { form: { anyOf: false, rows: [row({ test: test('text', '=', 'pier') })] } })
          : reading('pier and quay'),
      )) as never)
    const wrapper = mount(QueryBuilder, {
      props: { modelValue: 'pier' },
      global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] },
    })
    await flushPromises()
    await wrapper.findAll('.adds button')[0]!.trigger('click')
    await flushPromises()
    const sent = post.mock.calls.at(-1)![1] as unknown as { body: { form: Form } }
    expect(sent.body.form.rows.map((r) => r.test!.term)).toEqual(['pier'])
    expect(wrapper.emitted('update:modelValue')).toEqual([['pier and quay']])
  })
})
