import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import ChangeConsequences from './ChangeConsequences.vue'
import MendPlace from './MendPlace.vue'
import ReachTable from './ReachTable.vue'
import ReviewerPage from './ReviewerPage.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readAccess', 'manageAccess'))

const key = async (k: string) => {
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key: k, bubbles: true }))
  await flushPromises()
}

describe('the page of a reviewer', () => {
  const line = (id: number, more: Partial<Schemas['ReviewLineView']> = {}): Schemas['ReviewLineView'] => ({
    id,
    person: `p${id}@a.example`,
    personName: `Person ${id}`,
    what: 'share/yard',
    whatName: 'Yard drawings',
    roles: 'edit',
    path: ['Person', 'Yard crew', 'Yard drawings'],
    reviewer: 'maren@a.example',
    adviseRemoval: false,
    grounds: ['Used 3 days ago.'],
    decision: 'open',
    reason: '',
    decidedBy: '',
    bySilence: false,
    applied: false,
    failure: null,
    attempts: 0,
    meanwhile: null,
    former: [],
    ...more,
  })
  const page = (lines: Schemas['ReviewLineView'][], more: Partial<Schemas['ReviewerPage']> = {}) => {
    answers['GET /api/review/{token}'] = {
      review: 'Sensitive places',
      words: '',
      name: 'Maren Holt',
      endsOn: '2026-06-30',
      ended: false,
      reasonsRequired: false,
      lines,
      ...more,
    }
    answers['POST /api/review/{token}/answers'] = {}
    answers['GET /api/review/{token}/lines/{line}/removal'] = removal()
    return place(ReviewerPage, {}, '/review/tok')
  }
  const step = (says: string, more: Partial<Schemas['RemovalStepView']> = {}): Schemas['RemovalStepView'] => ({
    change: { verb: 'removeMember', who: 'gus@x.example', what: says, role: null },
    says,
    way: ['Gus', says],
    ways: 1,
    others: 0,
    otherNames: [],
    usual: true,
    ...more,
  })
  const removal = (more: Partial<Schemas['RemovalView']> = {}): Schemas['RemovalView'] => ({
    ways: 2,
    steps: [
      step('leaves the group Dock'),
      step('the link to Plans ends for everybody', { usual: false, others: 612, otherNames: ['Bo'] }),
    ],
    costs: [],
    lastUse: null,
    useIsSeen: false,
    ...more,
  })
  const sent = () => calls('POST /api/review/{token}/answers').map((c) => c.body)

  it('asks about the first line that is not decided', async () => {
    const wrapper = await page([line(1, { decision: 'keep' }), line(2)])
    expect(wrapper.get('.question').text()).toContain('Person 2')
  })
  it.each([
    ['k', 'keep'],
    ['r', 'remove'],
    ['c', 'cannotSay'],
  ])('takes %s for an answer', async (k, decision) => {
    await page([line(1), line(2)])
    await key(k)
    expect(sent()).toEqual([{ lines: [1], decision, reason: '', changes: null }])
  })
  it('goes on to the next line after an answer', async () => {
    const wrapper = await page([line(1), line(2)])
    await key('k')
    expect(wrapper.get('.question').text()).toContain('Person 2')
  })
  it('decides twenty lines by twenty keys', async () => {
    const wrapper = await page(Array.from({ length: 20 }, (_, i) => line(i + 1)))
    for (let i = 0; i < 20; i++) await key('k')
    expect(wrapper.text()).toContain('All 20 lines are decided. Thank you.')
  })
  it('takes the last answer back with u, and stands on its line again', async () => {
    const wrapper = await page([line(1), line(2)])
    await key('r')
    await key('u')
    expect(sent()[1]).toEqual({ lines: [1], decision: 'open', reason: '', changes: null })
    expect(wrapper.get('.question').text()).toContain('Person 1')
  })
  it('takes no key for an answer while a reason is typed', async () => {
    const wrapper = await page([line(1)])
    wrapper.get('#review-reason').element.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', bubbles: true }))
    await flushPromises()
    expect(sent()).toEqual([])
  })
  it('sends a reason with its own line only', async () => {
    await page([line(1), line(2)])
    await type('#review-reason', 'Left the yard')
    await key('r')
    await key('k')
    expect(sent().map((b) => (b as { reason: string }).reason)).toEqual(['Left the yard', ''])
  })
  it('answers all lines with the same ground at one press', async () => {
    const unused = { adviseRemoval: true, grounds: ['Not used for 412 days.'] }
    const wrapper = await page([
      line(1, unused),
      line(2, { adviseRemoval: true, grounds: ['Not used for 95 days.'] }),
      line(3),
    ])
    await press('Remove all 2 with this ground')
    expect(sent()[0]).toMatchObject({ lines: [1, 2], decision: 'remove' })
    expect(wrapper.get('.question').text()).toContain('Person 3')
  })
  it('tells the server that the grounds of a line were opened', async () => {
    await page([line(7)])
    await press('Grounds')
    expect(calls('POST /api/review/{token}/lines/{line}/opening')).toHaveLength(1)
  })
  it('says how many of the ways a removal takes', async () => {
    expect((await page([line(1)])).get('.ways').text()).toContain('2 ways; removal ends 1')
  })
  it('says how many others lose by the end of a link, and who', async () => {
    expect((await page([line(1)])).get('.others').text()).toBe('▲ 612 other people lose it Bo and 611 more')
  })
  it('chooses nothing by itself that others lose by', async () => {
    const boxes = (await page([line(1)])).findAll<HTMLInputElement>('.ways input')
    expect(boxes.map((b) => b.element.checked)).toEqual([true, false])
  })
  it('sends the ways that were chosen with a removal', async () => {
    const wrapper = await page([line(1)])
    await wrapper.findAll('.ways input')[1]!.setValue(true)
    await key('r')
    expect((sent()[0] as { changes: unknown[] }).changes).toHaveLength(2)
  })
  it('does not say that it was not used where no use could have been seen', async () => {
    expect((await page([line(1)])).get('.ways').text()).toContain('Use is unknown')
  })
  it('finds lines by their person', async () => {
    const wrapper = await page(Array.from({ length: 8 }, (_, i) => line(i + 1)))
    await wrapper.get('[aria-label="Search the lines"]').setValue('person 5')
    expect(wrapper.findAll('[aria-label="All lines"] li')).toHaveLength(1)
  })
  it('asks nothing any more once the round has ended', async () => {
    const wrapper = await page([line(1)], { ended: true })
    expect(wrapper.find('.question').exists()).toBe(false)
  })
  it('says why an answer was not taken, and stays on its line', async () => {
    const wrapper = await page([line(1), line(2)])
    answers['POST /api/review/{token}/answers'] = new Error('A reason is asked for.')
    await key('r')
    expect(wrapper.get('[role=alert]').text()).toBe('A reason is asked for.')
    expect(wrapper.get('.question').text()).toContain('Person 1')
  })
})

describe('the consequences of a change in the directory', () => {
  const change: Schemas['ChangeRequest'] = { verb: 'addMember', who: 'nils@a.example', what: 'yard', reason: '' }
  const difference = (n: number): Schemas['DifferenceView'] => ({
    person: `p${n}`,
    personName: `Person ${n}`,
    resource: 'share/yard',
    resourceName: 'Yard drawings',
    sensitive: n === 1,
    gained: ['edit'],
    lost: [],
  })
  const told = (gains: number, losses: number, n = 1) => {
    answers['POST /api/access/consequences'] = {
      says: '',
      gains,
      losses,
      sensitive: 1,
      people: 1,
      toxicPairs: [],
      differences: Array.from({ length: n }, (_, i) => difference(i + 1)),
    }
    return place(ChangeConsequences, { change })
  }
  it.each([
    [3, 0, 'Give 3 accesses'],
    [0, 1, 'Take 1 access'],
    [2, 1, 'Give 2 accesses and take 1 access'],
    [0, 0, 'Change it; nobody gains or loses'],
  ])('puts %i gained and %i lost on the button', async (gains, losses, says) => {
    const wrapper = await told(gains, losses)
    expect(wrapper.get('.el-button').text()).toBe(says)
  })
  it('carries the change out with the reason that was typed', async () => {
    const wrapper = await told(1, 0)
    await wrapper.get('input').setValue('Joins the yard')
    await wrapper.get('.el-button').trigger('click')
    expect(wrapper.emitted('carry')).toEqual([['Joins the yard']])
  })
  it('is looked at, not made, by whoever may not change the directory', async () => {
    signedIn('readAccess')
    const wrapper = await told(1, 0)
    expect(wrapper.find('.el-button').exists()).toBe(false)
  })
  it('shows twelve differences first, and says how many there are', async () => {
    const wrapper = await told(40, 0, 40)
    expect(wrapper.findAll('tbody tr')).toHaveLength(12)
    expect(wrapper.get('.more').text()).toBe('Show more of 40')
  })
})

describe('the lists to mend', () => {
  const fix: Schemas['ChangeRequest'] = { verb: 'removeGrant', who: 'gone@a.example', what: 'share/yard', reason: '' }
  const lists = (lines: Schemas['MendingLineView'][]) => {
    answers['GET /api/access/lists'] = [
      { name: 'empty', title: 'Empty groups', says: '', lines: 0, fixable: 0 },
      { name: 'leavers', title: 'Leavers with access', says: '', lines: lines.length, fixable: 1 },
    ]
    answers['GET /api/access/lists/{name}'] = { name: 'leavers', title: 'Leavers with access', says: '', lines }
    return place(MendPlace, {}, '/access/mend')
  }
  const gone: Schemas['MendingLineView'] = {
    who: 'gone@a.example',
    what: 'share/yard',
    words: 'Gone Person still reaches Yard drawings.',
    fix,
    fixSays: 'Take it',
  }
  it('opens the first list that has a line', async () => {
    const wrapper = await lists([gone])
    expect(wrapper.get('section h2').text()).toBe('Leavers with access')
  })
  it('makes the very change whose consequences were shown', async () => {
    const wrapper = await lists([gone])
    answers['POST /api/access/consequences'] = {
      says: '',
      gains: 0,
      losses: 1,
      sensitive: 0,
      people: 1,
      toxicPairs: [],
      differences: [],
    }
    answers['POST /api/access/changes'] = {}
    await press('Mend it')
    await wrapper.get('.consequences input').setValue('Has left')
    await press('Take 1 access')
    expect(calls('POST /api/access/changes').map((c) => c.body)).toEqual([{ ...fix, reason: 'Has left' }])
  })
  it('says where no change would do it', async () => {
    const wrapper = await lists([{ ...gone, fix: null }])
    expect(wrapper.get('td.do').text()).toBe('somebody must decide')
  })
  it('finds lines by their words', async () => {
    const wrapper = await lists([gone, { ...gone, who: 'b', words: 'Another line.' }])
    await wrapper.get('.tools input').setValue('another')
    expect(wrapper.findAll('tbody tr')).toHaveLength(1)
  })
})

describe('who reaches what', () => {
  const reach = (n: number, sensitive = false): Schemas['ReachView'] => ({
    person: 'a@a.example',
    personName: 'Anna',
    resource: `share/${n}`,
    resourceName: `Place ${n}`,
    kind: 'folder',
    sensitive,
    roles: ['view'],
    path: ['Anna', 'Yard crew', `Place ${n}`],
    pathIds: ['a@a.example', 'yard', `share/${n}`],
    lastUsed: null,
  })
  const answer = (rows: Schemas['ReachView'][]) =>
    ({ about: { id: 'a@a.example', name: 'Anna', kind: 'person' }, reach: rows }) as unknown as Schemas['ReachAnswer']
  it('leaves out what is not sensitive when asked to', async () => {
    const wrapper = await place(ReachTable, { answer: answer([reach(1), reach(2, true)]) })
    await wrapper.get('.el-checkbox input').setValue(true)
    expect(wrapper.findAll('tbody tr')).toHaveLength(1)
  })
  it('shows sixty rows first', async () => {
    const wrapper = await place(ReachTable, { answer: answer(Array.from({ length: 61 }, (_, i) => reach(i))) })
    expect(wrapper.findAll('tbody tr')).toHaveLength(60)
  })
})
