import { flushPromises } from '@vue/test-utils'
import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import DirectoryImport from './DirectoryImport.vue'
import DirectorySources from './DirectorySources.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('managePeople'))

const source = (more = {}) => ({
  id: 1,
  kind: 'scim',
  name: 'Personnel',
  carriesOut: false,
  tokenPrefix: 'wd_1a2b3c',
  lastAt: null,
  ended: false,
  people: 12,
  groups: 3,
  places: 0,
  ...more,
})
const sources = (...list: object[]) => (answers['GET /api/directory/sources'] = list)

it('says how each source comes', async () => {
  sources(source(), source({ id: 2, kind: 'standIn', name: 'Simulated directory', tokenPrefix: '' }))
  const text = (await place(DirectorySources)).text()
  expect(text).toContain('a program sends by SCIM 2.0')
  expect(text).toContain('simulated; it is read, and carries out what is decided here')
})
it('says that a disconnected source keeps what came from it', async () => {
  sources(source({ ended: true }))
  expect((await place(DirectorySources)).text()).toContain('disconnected; what came from it stays')
})
it('says what to do where there is no source', async () => {
  sources()
  expect((await place(DirectorySources)).text()).toContain('None yet. Take in files')
})
it('offers no act on the simulated directory', async () => {
  sources(source({ kind: 'standIn' }))
  await place(DirectorySources)
  expect(button('Disconnect')).toBeUndefined()
})
it('shows the token of a new source with its address', async () => {
  sources()
  answers['POST /api/directory/sources'] = { id: 3, address: 'https://keel.example/scim/v2', token: 'wd_secret' }
  const wrapper = await place(DirectorySources)
  await press('Add a source')
  await type('#ds-name', 'Personnel')
  await press('Add it')
  expect(calls('POST /api/directory/sources')[0]!.body).toEqual({ name: 'Personnel', kind: 'scim' })
  expect(wrapper.get('[role=status]').text()).toContain('https://keel.example/scim/v2')
  expect(wrapper.get('[role=status]').text()).toContain('wd_secret')
})
it('hides the token once it is copied', async () => {
  sources(source())
  answers['POST /api/directory/sources/{id}/token'] = { id: 1, address: 'https://keel.example/scim/v2', token: 'wd_2' }
  const wrapper = await place(DirectorySources)
  await press('New token')
  await press('I have copied it')
  expect(wrapper.text()).not.toContain('wd_2')
})
it('says what stays before a source is disconnected', async () => {
  sources(source())
  answers['POST /api/directory/sources/{id}/end'] = {}
  await place(DirectorySources)
  await press('Disconnect')
  expect(document.body.textContent).toContain('Its 12 people, 3 groups')
  await press('Disconnect it')
  expect(calls('POST /api/directory/sources/{id}/end')).toHaveLength(1)
})

const consequences = {
  appear: 1,
  change: 0,
  disappear: 1,
  differences: [
    { thing: 'person', how: 'disappears', id: 'bo@x.example', name: 'Bo', says: ['has left from: 2026-06-15'] },
    { thing: 'person', how: 'appears', id: 'cy@x.example', name: 'Cy', says: [] },
  ],
  left: 0,
  passedOver: [],
  touches: [{ id: 'bo@x.example', what: 'Bo is a custodian of matter M-2026-001', link: '/matters/1' }],
}
async function choose(table: string, text: string) {
  const field = document.body.querySelector<HTMLInputElement>(`#d-${table}`)!
  Object.defineProperty(field, 'files', { value: [{ text: () => Promise.resolve(text) }], configurable: true })
  field.dispatchEvent(new Event('change'))
  await flushPromises()
}
async function opened() {
  sources(source({ kind: 'files', name: 'Files' }))
  answers['POST /api/directory/consequences'] = consequences
  answers['POST /api/directory'] = { added: 1, changed: 1, groups: 0, others: 0 }
  await place(DirectoryImport)
}

it('asks for a file before anything else', async () => {
  await opened()
  expect(button('Show what would change')!.disabled).toBe(true)
})
it('shows who would leave and what hangs on them before it takes files in', async () => {
  await opened()
  await choose('people', 'name,mail\nCy,cy@x.example\n')
  await press('Show what would change')
  expect(document.body.textContent).toContain('has left from: 2026-06-15')
  expect(document.body.textContent).toContain('Bo is a custodian of matter M-2026-001')
  expect(calls('POST /api/directory')).toHaveLength(0)
})
it('takes in what was looked at, and says how much', async () => {
  await opened()
  await choose('people', 'name,mail\nCy,cy@x.example\n')
  await press('Show what would change')
  await press('Take in 2 differences')
  expect(calls('POST /api/directory')[0]!.body).toEqual({
    people: 'name,mail\nCy,cy@x.example\n',
    source: null,
    whole: false,
  })
  expect(document.body.textContent).toContain('1 person added, 1 changed')
})
it('looks anew where another file is chosen after the look', async () => {
  await opened()
  await choose('people', 'name,mail\nCy,cy@x.example\n')
  await press('Show what would change')
  await choose('groups', 'group,member\nCrew,cy@x.example\n')
  expect(button('Show what would change')).toBeDefined()
})
it('takes in nothing where nothing is different', async () => {
  await opened()
  answers['POST /api/directory/consequences'] = {
    ...consequences,
    appear: 0,
    disappear: 0,
    differences: [],
    touches: [],
    passedOver: [],
  }
  await choose('ldif', 'dn: cn=a\n')
  await press('Show what would change')
  expect(button('Nothing is different')!.disabled).toBe(true)
})
it('leads from the number of a source to its people', async () => {
  sources(source())
  const wrapper = await place(DirectorySources, {}, '/set-up/directory')
  expect(wrapper.findAll('a').map((a) => [a.text(), a.attributes('href')])).toContainEqual([
    '12',
    '/set-up/directory?source=1',
  ])
})
it('leads to the places for those who may see them only', async () => {
  signedIn('managePeople', 'readAccess')
  sources(source({ places: 4 }))
  const wrapper = await place(DirectorySources)
  expect(wrapper.findAll('a').map((a) => a.attributes('href'))).toContain('/access/places')
})
