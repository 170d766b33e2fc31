import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, signedIn, standIn, tidyUp } from '@/shared/testing'
import PreviewPane from '@/shared/PreviewPane.vue'
import KindDialog from './KindDialog.vue'
import SavedViews from '@/shared/SavedViews.vue'
import SensitivePlace from './SensitivePlace.vue'

tidyUp()

standIn()
beforeEach(() => {
  signedIn('readSensitive', 'unmaskSensitive', 'writeKinds')
})

describe('where sensitive data lies', () => {
  const kind = (name: string, items: number, part: Partial<Schemas['KindView']> = {}): Schemas['KindView'] => ({
    name,
    title: name.toUpperCase(),
    items,
    id: null,
    revision: 0,
    definition: null,
    ...part,
  })
  const own = kind('crew-number', 3, {
    id: 7,
    revision: 2,
    title: 'Crew number',
    definition: { name: 'crew-number', title: 'Crew number', pattern: 'T[0-9]{4}', checksum: 'none', nearby: ['crew'] },
  })
  const view: Schemas['SensitivePlaces'] = {
    kinds: [kind('bic', 0), kind('email', 5), kind('iban', 20), own],
    containers: [{ id: 1, name: 'Crew files', source: 'Share', unit: 'Crewing', items: 64 }],
    places: [
      { containerId: 1, kind: 'iban', items: 20, possible: 0, likely: 1, certain: 19 },
      { containerId: 1, kind: 'email', items: 5, possible: 5, likely: 0, certain: 0 },
    ],
  }
  it('puts the kinds with most items first and leaves out what was not found', async () => {
    answers['GET /api/sensitive'] = view
    const wrapper = await place(SensitivePlace)
    expect(wrapper.findAll('.matrix thead th').map((h) => h.text())).toEqual([
      'Container',
      'IBAN',
      'EMAIL',
      'Crew number',
    ])
    expect(wrapper.get('details summary').text()).toBe('1 kind looked for and not found')
  })
  it('opens each figure into its items, and greys what is only possible', async () => {
    answers['GET /api/sensitive'] = view
    const wrapper = await place(SensitivePlace)
    const [iban, email] = wrapper.findAll('.matrix tbody td a')
    expect(iban!.attributes('href')).toBe('/content?container=1&kind=iban')
    expect(iban!.attributes('title')).toBe('19 certain finds, 1 likely, 0 possible')
    expect([iban!.classes(), email!.classes()].map((c) => c.includes('quiet'))).toEqual([false, true])
  })
  it('removes a kind under the revision that was seen', async () => {
    answers['GET /api/sensitive'] = view
    answers['DELETE /api/sensitive/kinds/{id}'] = { ok: true }
    const wrapper = await place(SensitivePlace)
    await wrapper.get('[aria-label="Remove Crew number"]').trigger('click')
    await flushPromises()
    expect(document.body.querySelector('.el-dialog')!.textContent).toContain(
      '3 items will no longer be known to hold it',
    )
    expect(calls('DELETE /api/sensitive/kinds/{id}')).toHaveLength(0)
    button('Remove it')!.click()
    await flushPromises()
    expect(calls('DELETE /api/sensitive/kinds/{id}')[0]!.headers).toEqual({ 'If-Match': '"2"' })
  })
  it('offers nothing to those who may only look', async () => {
    signedIn('readSensitive')
    answers['GET /api/sensitive'] = view
    const wrapper = await place(SensitivePlace)
    expect(wrapper.findAll('button').map((b) => b.text())).toEqual([])
  })
  it('says what it knows of where nothing was found', async () => {
    answers['GET /api/sensitive'] = { kinds: [kind('iban', 0)], containers: [], places: [] }
    expect((await place(SensitivePlace)).get('.empty').text()).toContain('1 kind of sensitive data')
  })
})

describe('a kind of one’s own', () => {
  it('is tried on a text before it has a name, and the refusal stands beside the text', async () => {
    vi.useFakeTimers()
    answers['POST /api/sensitive/trial'] = [
      { kind: 'trial', confidence: 'likely', start: 5, length: 5, masked: '••••4' },
    ]
    await place(KindDialog, { kind: null })
    const set = async (id: string, value: string) => {
      const field = document.body.querySelector<HTMLInputElement>(`#${id}`)!
      field.value = value
      field.dispatchEvent(new Event('input'))
      await vi.advanceTimersByTimeAsync(400)
      await flushPromises()
    }
    await set('k-pattern', 'T[0-9]{4}')
    await set('k-sample', 'crew T1004')
    expect(document.body.querySelector('[role=status]')!.textContent).toBe('1 find: 1 likely')
    expect(document.body.querySelector('pre .find')!.textContent).toBe('T1004')
    answers['POST /api/sensitive/trial'] = new Error('The pattern is no regular expression.')
    await set('k-pattern', 'T[0-9')
    expect(document.body.querySelector('.form [role=alert]')!.textContent).toBe('The pattern is no regular expression.')
    vi.useRealTimers()
  })
})

describe('a preview', () => {
  const preview = {
    kind: 'text',
    content: 'IBAN •••• 32',
    note: null,
    marks: [{ start: 0, length: 4, end: 4 }],
    finds: [{ kind: 'iban', confidence: 'certain', start: 5, length: 7 }],
  }
  it('marks words and finds, and unmasks with a reason until another item is shown', async () => {
    answers['GET /api/items/{id}/preview'] = preview
    answers['POST /api/items/{id}/unmasking'] = { text: 'IBAN GB82 32', finds: preview.finds }
    const wrapper = await place(PreviewPane, { item: 3, cql: 'iban' })
    expect(wrapper.get('mark').text()).toBe('IBAN')
    expect(wrapper.get('.find').attributes('title')).toBe('iban, certain')
    await wrapper.get('.finds button').trigger('click')
    await flushPromises()
    const why = document.body.querySelector<HTMLTextAreaElement>('#unmask-why')!
    why.value = 'The bank asked'
    why.dispatchEvent(new Event('input'))
    await flushPromises()
    document.body.querySelector<HTMLButtonElement>('.el-dialog .el-button--primary')!.click()
    await flushPromises()
    expect(calls('POST /api/items/{id}/unmasking')[0]!.body).toEqual({ why: 'The bank asked' })
    expect(wrapper.get('pre').text()).toBe('IBAN GB82 32')
    await wrapper.setProps({ item: 4 })
    await flushPromises()
    expect(wrapper.get('pre').text()).toBe('IBAN •••• 32')
  })
  it('offers no unmasking to those who may not, and none where nothing is masked', async () => {
    answers['GET /api/items/{id}/preview'] = preview
    signedIn('readSensitive')
    expect((await place(PreviewPane, { item: 3 })).find('.finds button').exists()).toBe(false)
    signedIn('unmaskSensitive')
    answers['GET /api/items/{id}/preview'] = {
      ...preview,
      content: 'mail a@b.example',
      finds: [{ kind: 'email', confidence: 'certain', start: 5, length: 11 }],
    }
    expect((await place(PreviewPane, { item: 5 })).find('.finds button').exists()).toBe(false)
  })
})

describe('views', () => {
  const views: Schemas['ViewView'][] = [
    { id: 1, name: 'Mine', query: 'cql=pier&sort=title', shared: false, own: true, by: 'Ines', revision: 4 },
    { id: 2, name: 'Theirs', query: 'state=due', shared: true, own: false, by: 'Maren', revision: 1 },
  ]
  const where = { place: 'content', path: '/content', open: 'item' }
  it('know which of them is shown, whatever item is open', async () => {
    answers['GET /api/views'] = views
    const wrapper = await place(SavedViews, where, '/content?cql=pier&sort=title&item=12')
    expect(wrapper.get('.chip').text()).toBe('View: Mine')
  })
  it('keep what is shown without the open item', async () => {
    answers['GET /api/views'] = views
    answers['POST /api/views'] = views[0]
    const wrapper = await place(SavedViews, where, '/content?cql=quay&type=md&type=pdf&item=12')
    await wrapper.get('.chip').trigger('click')
    button('Keep what is shown')!.click()
    await flushPromises()
    await wrapper.get('#view-name').setValue('Quays')
    await wrapper.get('form').trigger('submit')
    await flushPromises()
    expect(calls('POST /api/views')[0]!.body).toEqual({
      name: 'Quays',
      query: 'cql=quay&type=md&type=pdf',
      shared: false,
      place: 'content',
    })
  })
  it('of activity lead to the search of activity', async () => {
    answers['GET /api/views'] = [views[1]]
    const wrapper = await place(SavedViews, { place: 'activity', path: '/activity/search', open: 'event' })
    await wrapper.get('.chip').trigger('click')
    expect(wrapper.get('li a').attributes('href')).toBe('/activity/search?state=due')
  })
  it('share one’s own and leave those of others alone', async () => {
    answers['GET /api/views'] = views
    answers['PUT /api/views/{id}'] = views[0]
    const wrapper = await place(SavedViews, where)
    await wrapper.get('.chip').trigger('click')
    expect(wrapper.findAll('li .acts')).toHaveLength(1)
    await wrapper
      .findAll('li .acts button')
      .find((b) => b.text() === 'Share')!
      .trigger('click')
    await flushPromises()
    const put = calls('PUT /api/views/{id}')[0]!
    expect([put.body, put.headers]).toEqual([
      { name: 'Mine', query: 'cql=pier&sort=title', shared: true, place: 'content' },
      { 'If-Match': '"4"' },
    ])
  })
})
