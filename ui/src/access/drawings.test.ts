import { beforeEach, expect, it } from 'vitest'
import { nextTick } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import ShowMore from '@/shared/ShowMore.vue'
import ChangePanel from './ChangePanel.vue'
import ReviewsChart from './ReviewsChart.vue'
import WaysDrawing from './WaysDrawing.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readAccess', 'manageAccess'))

it('shows no button where all is shown', async () => {
  expect((await place(ShowMore, { modelValue: 20, of: 20 })).text()).toBe('')
})
it('shows more by a step, and says of how many', async () => {
  const wrapper = await place(ShowMore, { modelValue: 20, of: 1_234, step: 100 })
  expect(wrapper.text()).toBe('Show more of 1,234')
  await press('Show more')
  expect(wrapper.emitted('update:modelValue')).toEqual([[120]])
})

const way = (ids: string[], role: string): Schemas['WayView'] => ({ ids, names: ids.map((i) => i.toUpperCase()), role })
const drawn = (ways: Schemas['WayView'][]) => {
  answers['GET /api/access/ways'] = ways
  return place(WaysDrawing, { person: 'ann', resource: 'lib' })
}

it('draws each group once, however many ways pass it', async () => {
  const wrapper = await drawn([way(['ann', 'crew', 'lib'], 'reader'), way(['ann', 'crew', 'fleet', 'lib'], 'editor')])
  expect(wrapper.findAll('svg text').map((t) => t.text())).toEqual(['ANN', 'CREW', 'LIB', 'FLEET'])
})
it('puts the place at the right of every group', async () => {
  const wrapper = await drawn([way(['ann', 'lib'], 'owner'), way(['ann', 'crew', 'fleet', 'lib'], 'editor')])
  const x = (name: string) =>
    Number(
      wrapper
        .findAll('svg g')
        .find((g) => g.text() === name)!
        .attributes('transform')!
        .match(/\((\d+)/)![1],
    )
  expect(x('LIB')).toBeGreaterThan(x('FLEET'))
})
it('says each way in the table beneath', async () => {
  const wrapper = await drawn([way(['ann', 'crew', 'lib'], 'reader')])
  expect(wrapper.get('tbody').text()).toContain('ANN → CREW → LIB')
  expect(wrapper.get('h2').text()).toBe('1 way from ANN to LIB')
})

const entry = (id: string, kind: string): Schemas['DirectoryEntry'] => ({
  id,
  name: id,
  kind,
  detail: '',
  count: 0,
  owner: null,
  sensitive: false,
  left: false,
  suspended: false,
})
const panel = (kind: string) => {
  answers['POST /api/access/consequences'] = { people: 1, gains: 2, losses: 0, sensitive: 0, differences: [] }
  return place(ChangePanel, {
    answer: {
      about: entry('Crew', kind),
      reach: [],
      groups: [entry('Fleet', 'group')],
      members: [entry('ann', 'person')],
      links: [],
      consents: [],
      alerts: 0,
      lastSignIn: null,
      leaves: null,
    },
    entries: [entry('ann', 'person'), entry('bo', 'person'), entry('Crew', 'group'), entry('Fleet', 'group')],
  })
}
const think = async (label: string) => {
  const radio = [...document.body.querySelectorAll('label')].find((l) => l.textContent?.includes(label))!
  radio.querySelector('input')!.click()
  await nextTick()
}

it.each([
  ['person', ['Before you add to a group', 'Before you remove from a group']],
  ['group', ['Before you add somebody', 'Before you remove somebody', 'Set the owner']],
  ['library', ['The least that is enough', 'Before you grant', 'Before you take a grant away', 'Set the owner']],
])('offers what one may think of about a %s', async (kind, verbs) => {
  const wrapper = await panel(kind)
  expect(wrapper.findAll('.el-radio-button').map((r) => r.text())).toEqual(verbs)
})
it('asks for no consequences before somebody is chosen', async () => {
  await panel('group')
  await think('Before you add somebody')
  expect(calls('POST /api/access/consequences')).toHaveLength(0)
})
it('says that no group gives a role', async () => {
  answers['GET /api/access/least'] = []
  const wrapper = await panel('library')
  await think('The least that is enough')
  await new Promise((done) => setTimeout(done))
  expect(wrapper.text()).toContain('No group gives this role here.')
})

const review = (id: number, more: Partial<Schemas['ReviewView']>) =>
  ({
    id,
    settings: { name: `Review ${id}`, days: 10 },
    state: 'running',
    owner: '',
    nextOn: null,
    rounds: [],
    revision: 1,
    ...more,
  }) as unknown as Schemas['ReviewView']
const ran = (startedOn: string, endedAt: string | null) =>
  ({
    number: 1,
    startedOn,
    endsOn: startedOn,
    endedAt,
    lines: 10,
    kept: 6,
    removed: 3,
    open: 1,
  }) as unknown as Schemas['RoundView']
const today = () => new Date().toISOString().slice(0, 10)

it('draws what ran with how it ended, and what is planned', async () => {
  const wrapper = await place(ReviewsChart, {
    reviews: [
      review(1, { rounds: [ran(today(), `${today()}T08:00:00Z`)] }),
      review(2, { state: 'planned', nextOn: today() }),
    ],
  })
  const says = wrapper.findAll('[role=img]').map((b) => b.attributes('aria-label'))
  expect(says[0]).toContain('6 kept, 3 removed, 1 open')
  expect(says[1]).toContain('for 10 days')
})
it('leaves out what lies years back', async () => {
  const wrapper = await place(ReviewsChart, { reviews: [review(1, { rounds: [ran('2001-01-01', '2001-01-09')] })] })
  expect(wrapper.find('figure').exists()).toBe(false)
})
it('opens a review from its name', async () => {
  const wrapper = await place(ReviewsChart, { reviews: [review(7, { rounds: [ran(today(), null)] })] })
  button('Review 7')!.click()
  expect(wrapper.emitted('choose')).toEqual([[7]])
})
