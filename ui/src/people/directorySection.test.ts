import { beforeEach, expect, it } from 'vitest'
import { answers, button, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import DirectorySection from './DirectorySection.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readDirectory'))

const person = (n: number, more = {}) => ({
  id: n,
  name: `Person ${n}`,
  mail: `p${n}@x.example`,
  unit: 'North',
  title: 'Mate',
  leavesOn: null,
  kind: 'person',
  groups: [],
  suspended: false,
  source: 'Files',
  holds: [],
  ...more,
})
function directory(people: object[]) {
  answers['GET /api/directory/people'] = people
  answers['GET /api/directory/groups'] = [
    { id: 1, name: 'Crew', sourceId: 1, members: ['Person 1'] },
    { id: 2, name: 'Yard', sourceId: 2, members: ['Person 2'] },
  ]
  answers['GET /api/directory/sources'] = [
    { id: 1, name: 'Files', kind: 'files', people: 800, groups: 1, places: 0, ended: false },
    { id: 2, name: 'Personnel', kind: 'scim', people: 7, groups: 1, places: 0, ended: false },
  ]
}

it('counts everybody of all sources, also where the list is cut', async () => {
  directory([person(1)])
  expect((await place(DirectorySection)).text()).toContain('807 people, 2 groups')
})
it('shows the people and groups of one source by its address', async () => {
  directory([person(1)])
  const text = (await place(DirectorySection, {}, '/set-up/directory?source=2')).text()
  expect(text).toContain('7 people, 1 group')
  expect(text).toContain('of Personnel')
  expect(text).not.toContain('Crew')
})
it('leads from one source back to all of them', async () => {
  directory([person(1)])
  const wrapper = await place(DirectorySection, {}, '/set-up/directory?source=2')
  await press('all sources')
  expect(wrapper.text()).toContain('807 people')
})
it('says that the list is cut, and what finds the others', async () => {
  directory(Array.from({ length: 500 }, (_, n) => person(n)))
  expect((await place(DirectorySection)).text()).toContain('The first 500 by name')
})
it('shows a dozen people and offers the others', async () => {
  directory(Array.from({ length: 15 }, (_, n) => person(n)))
  const wrapper = await place(DirectorySection)
  expect(wrapper.text()).not.toContain('Person 14')
  await press('3 more')
  expect(wrapper.text()).toContain('Person 14')
  expect(button('more')).toBeUndefined()
})
