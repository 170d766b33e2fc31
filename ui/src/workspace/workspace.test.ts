import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { answers, calls, place, standIn, tidyUp, typedAt } from '@/shared/testing'
import BoardPane from './BoardPane.vue'
import FilePane from './FilePane.vue'
import FileSide from './FileSide.vue'
import MyFilesPlace from './MyFilesPlace.vue'

const flat = (text: string | null | undefined) => (text ?? '').replace(/\s+/g, ' ').trim()
const declared = 'It is declared a record: a new version can stand beside it.'
const may = (no: Record<string, string> = {}, kept: Record<string, string> = {}) =>
  (['editContent', 'editFields', 'moveWithin', 'moveAcross', 'delete'] as const).map((operation) => ({
    operation,
    allowed: !(operation in no),
    sentence: no[operation] ?? kept[operation] ?? null,
  }))
const view = (more: Record<string, unknown> = {}) => ({
  id: 7,
  libraryId: 1,
  library: 'Yard plans',
  folder: '',
  name: 'Docking.md',
  type: 'md',
  bytes: 12,
  by: 'Pia Lind',
  at: '2026-06-15T08:00:00Z',
  text: 'Merrow in March.',
  fields: {},
  versions: [],
  operations: may(),
  state: 'noRule',
  grade: 'none',
  series: null,
  standing: 'Nothing keeps it.',
  follows: null,
  next: null,
  mayWork: true,
  revision: 5,
  ...more,
})
const FILE = '/api/workspace/files/{id}'
tidyUp()
afterEach(() => {
  document.body.replaceChildren()
  sessionStorage.clear()
})
standIn()

const file = async (more: Record<string, unknown> = {}) => {
  answers[`GET ${FILE}`] = view(more)
  answers['GET /api/workspace/libraries'] = []
  return place(FilePane, { id: 7 })
}
const button = (wrapper: Awaited<ReturnType<typeof file>>, text: string) =>
  wrapper.findAll('.el-button').find((b) => b.text() === text)
const inDialog = (text: string) =>
  [...document.body.querySelectorAll<HTMLElement>('.el-dialog button')].find((b) => flat(b.textContent) === text)!

describe('a file of the workspace', () => {
  it('is saved against the revision that was read, once something was written', async () => {
    const wrapper = await file()
    answers[`PUT ${FILE}/text`] = view({ text: 'Merrow in April.', revision: 6 })
    expect(button(wrapper, 'Save')!.attributes('disabled')).toBeDefined()
    await wrapper.find('#text').setValue('Merrow in April.')
    await button(wrapper, 'Save')!.trigger('click')
    await flushPromises()
    const [call] = calls(`PUT ${FILE}/text`)
    expect(call!.body).toEqual({ text: 'Merrow in April.' })
    expect(button(wrapper, 'Save')!.attributes('disabled')).toBeDefined()
    expect(typedAt('file.7') ?? 'null').toBe('null')
  })
  it('keeps what was written where saving is refused, with the reason', async () => {
    const wrapper = await file()
    answers[`PUT ${FILE}/text`] = new Error('Somebody else changed it meanwhile.')
    await wrapper.find('#text').setValue('Merrow in May.')
    await button(wrapper, 'Save')!.trigger('click')
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('Somebody else changed it meanwhile.')
    expect(wrapper.find<HTMLTextAreaElement>('#text').element.value).toBe('Merrow in May.')
    await button(wrapper, 'As it was')!.trigger('click')
    expect(wrapper.find<HTMLTextAreaElement>('#text').element.value).toBe('Merrow in March.')
  })
  it('that is declared offers a version beside it, and says each reason once', async () => {
    const wrapper = await file({
      operations: may({ editContent: declared, delete: declared, moveWithin: 'It stays where it is filed.' }),
    })
    expect(wrapper.findAll('.why').map((w) => w.text())).toEqual(['It stays where it is filed.', declared])
    expect(button(wrapper, 'Save')).toBeUndefined()
    answers[`POST ${FILE}/successor`] = { id: 8 }
    await wrapper.find('#text').setValue('Merrow in June.')
    await button(wrapper, 'Save as a new version beside it')!.trigger('click')
    await flushPromises()
    expect(calls(`POST ${FILE}/successor`)[0]!.body).toEqual({ text: 'Merrow in June.' })
  })
  it('without text says why an act is refused all the same', async () => {
    const wrapper = await file({
      text: null,
      type: 'jpg',
      operations: may({ editContent: declared, delete: declared }),
    })
    expect(wrapper.findAll('.why').map((w) => w.text())).toEqual([declared])
    expect(wrapper.find('textarea').exists()).toBe(false)
  })
  it('is only read where one may not work', async () => {
    const wrapper = await file({ mayWork: false })
    expect(wrapper.findAll('.el-button')).toHaveLength(0)
    expect(wrapper.find('#text').attributes('readonly')).toBeDefined()
  })
  it('tells before it is deleted what remains of it', async () => {
    const wrapper = await file({ operations: may({}, { delete: 'A copy stays in safekeeping.' }) })
    await button(wrapper, 'Delete')!.trigger('click')
    await flushPromises()
    expect(flat(document.body.querySelector('.el-dialog .why')!.textContent)).toBe('A copy stays in safekeeping.')
    expect(calls(`DELETE ${FILE}`)).toHaveLength(0)
    inDialog('Delete it').click()
    await flushPromises()
    expect(calls(`DELETE ${FILE}`)).toHaveLength(1)
  })
  it('loses a field only by being told to', async () => {
    const wrapper = await file({ fields: { vessel: 'Merrow', closed: '2026-03-01' } })
    answers[`PUT ${FILE}/fields`] = view()
    await button(wrapper, 'Fields')!.trigger('click')
    await flushPromises()
    document.body.querySelector<HTMLElement>('.el-dialog .pair .link')!.click()
    await flushPromises()
    inDialog('Save').click()
    await flushPromises()
    expect(calls(`PUT ${FILE}/fields`)[0]!.body).toEqual({ fields: { vessel: '', closed: '2026-03-01' } })
  })
})

describe('the versions of a file', () => {
  const versions = [
    { number: 2, at: '2026-06-15T08:00:00Z', by: 'Pia Lind', bytes: 12, isNow: true },
    { number: 1, at: '2026-06-14T08:00:00Z', by: 'Karl Nyman', bytes: 9, isNow: false },
  ]
  const side = async (more: Record<string, unknown>) => {
    answers[`GET ${FILE}`] = view({ versions, ...more })
    answers['GET /api/items/{id}/history'] = []
    return place(FileSide, { id: 7 })
  }
  it('can be taken back, but for the one that is there', async () => {
    const wrapper = await side({})
    answers[`POST ${FILE}/versions/{number}/restoration`] = view({ versions })
    expect(wrapper.findAll('li button').map((b) => b.text())).toEqual(['Take back'])
    await wrapper.find('li button').trigger('click')
    await flushPromises()
    expect(calls(`POST ${FILE}/versions/{number}/restoration`)).toHaveLength(1)
  })
  it('are looked at only where the text may not change', async () => {
    expect((await side({ operations: may({ editContent: declared }) })).findAll('li button')).toHaveLength(0)
  })
})

describe('a channel', () => {
  const post = (id: number, text: string) => ({
    id,
    name: `${id}.md`,
    by: 'Pia Lind',
    at: '2026-06-15T08:00:00Z',
    post: text,
    state: 'noRule',
  })
  const folder = (more: Record<string, unknown> = {}) => ({
    library: { id: 4, name: '#harbour office' },
    folder: '',
    folders: [],
    files: [post(1, 'Fog at pier 4.')],
    default: null,
    mayWork: true,
    ...more,
  })
  it('is written to, and a post that is refused stays in the field', async () => {
    const wrapper = await place(BoardPane, { folder: folder() })
    const path = 'POST /api/workspace/libraries/{id}/posts'
    answers[path] = new Error('The source is disconnected.')
    await wrapper.find('textarea').setValue('Cleared.')
    await wrapper.find('form').trigger('submit')
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('The source is disconnected.')
    expect(wrapper.find('textarea').element.value).toBe('Cleared.')
    answers[path] = { id: 2 }
    await wrapper.find('form').trigger('submit')
    await flushPromises()
    expect(calls(path).map((c) => c.body)).toEqual([{ text: 'Cleared.' }, { text: 'Cleared.' }])
    expect(wrapper.find('textarea').element.value).toBe('')
  })
  it('has no field for those who only read', async () => {
    expect((await place(BoardPane, { folder: folder({ mayWork: false }) })).find('form').exists()).toBe(false)
  })
})

describe('my files', () => {
  const row = {
    id: 7,
    name: 'Docking.md',
    title: 'Docking',
    type: 'md',
    bytes: 12,
    by: 'Pia Lind',
    at: '2026-06-15T08:00:00Z',
    post: null,
    state: 'held',
    grade: 'kept',
  }
  it('show the folder that the address names, and what stands in it', async () => {
    const library = {
      id: 1,
      name: 'Yard plans',
      workspace: 'Workspace',
      unit: 'Yard & Engineering',
      isChannel: false,
      files: 4,
      default: null,
    }
    answers['GET /api/workspace/libraries'] = [library]
    answers['GET /api/workspace/libraries/{id}/folder'] = {
      library,
      folder: 'Spare parts',
      folders: ['Spare parts/Old'],
      files: [row],
      default: null,
      mayWork: true,
    }
    const wrapper = await place(MyFilesPlace, {}, '/my-files?library=1&folder=Spare%20parts')
    await flushPromises()
    expect(flat(wrapper.text())).toContain('Docking.md')
    expect(flat(wrapper.text())).toContain('Held')
    expect(wrapper.findAll('td button').length).toBeGreaterThan(1)
  })
  it('say it where no library is one’s own', async () => {
    answers['GET /api/workspace/libraries'] = []
    const wrapper = await place(MyFilesPlace, {}, '/my-files')
    expect(wrapper.findAll('nav button')).toHaveLength(0)
    expect(flat(wrapper.text())).toMatch(/no librar/i)
  })
})
