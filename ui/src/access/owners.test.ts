import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import ListNews from './ListNews.vue'
import OwnerPage from './OwnerPage.vue'
import OwnersPanel from './OwnersPanel.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readAccess', 'manageAccess'))

const rule = { on: false, many: 2, weeks: 2, times: 3, allow: [], block: ['Finance'], words: '' }
const owners = (more = {}, things: object[] = []) =>
  (answers['GET /api/access/owners'] = { rule: { ...rule, ...more }, things })

it('says the rule as one sentence', async () => {
  owners()
  expect((await place(OwnersPanel)).text()).toContain(
    'Only when you ask for it: Ask the 2 most active members, wait 2 weeks for an answer, and ask others up to 3 times; ' +
      'then the steward of their unit answers for it. Nobody of Finance.',
  )
})
it('asks every morning from now on', async () => {
  owners()
  answers['PUT /api/access/owners'] = {}
  await place(OwnersPanel)
  await press('Ask every morning')
  expect(calls('PUT /api/access/owners')[0]!.body).toEqual({ ...rule, on: true })
})
it('keeps the rule as it was changed', async () => {
  owners()
  answers['PUT /api/access/owners'] = {}
  await place(OwnersPanel)
  await press('Change the rule')
  await type('#o-allow', 'Crewing, ann@x.example')
  await press('Keep the rule')
  expect(calls('PUT /api/access/owners')[0]!.body).toMatchObject({ allow: ['Crewing', 'ann@x.example'] })
})
it('says how many were asked', async () => {
  owners()
  answers['POST /api/access/owners/asking'] = { asked: 4, toStewards: 1 }
  const wrapper = await place(OwnersPanel)
  await press('Ask now')
  expect(wrapper.get('[role=status]').text()).toBe('4 people asked, 1 given to stewards.')
})
it('says that nobody new is to be asked', async () => {
  owners()
  answers['POST /api/access/owners/asking'] = { asked: 0, toStewards: 0 }
  const wrapper = await place(OwnersPanel)
  await press('Ask now')
  expect(wrapper.get('[role=status]').text()).toContain('those who were asked still have time')
})
it('lists who was asked and what they said', async () => {
  owners({}, [
    {
      id: 'Dock',
      name: 'Dock',
      owner: null,
      asked: [
        { person: 'a@x.example', personName: 'Ann', round: 1, askedOn: '2026-06-01', answer: 'no', answeredAt: null },
      ],
    },
  ])
  expect((await place(OwnersPanel)).text()).toContain('1 Jun 2026, Ann (1): no')
})
it('offers no act to those who only read', async () => {
  signedIn('readAccess')
  owners()
  await place(OwnersPanel)
  expect(button('Ask now')).toBeUndefined()
})

const page = (state: string) =>
  (answers['GET /api/ownership/{token}'] = { name: 'Dock', kind: 'group', people: 7, toName: 'Ann', state })

it('takes a thing over by one press', async () => {
  page('open')
  answers['POST /api/ownership/{token}'] = {}
  await place(OwnerPage)
  await press('Yes, I answer for it')
  expect(calls('POST /api/ownership/{token}')[0]!.body).toEqual({ take: true })
})
it('thanks whoever has it', async () => {
  page('yours')
  expect((await place(OwnerPage)).text()).toContain('✓ You answer for it. Thank you.')
})
it('says that somebody else was faster', async () => {
  page('taken')
  await place(OwnerPage)
  expect(document.body.textContent).toContain('Somebody else answers for it already')
  expect(button('Yes')).toBeUndefined()
})
it('lets those who declined think again', async () => {
  page('declined')
  await place(OwnerPage)
  expect(button('Yes, I answer for it')).toBeDefined()
  expect(button('No')).toBeUndefined()
})

const news = (tickets: boolean, recipients: string[]) =>
  (answers['GET /api/access/lists/{name}/news'] = { tickets, recipients })

it('says what follows a new line', async () => {
  news(true, ['ann@x.example'])
  expect((await place(ListNews, { list: 'unused' })).text()).toContain(
    'Each new line opens a ticket and informs ann@x.example.',
  )
})
it('keeps who is informed of new lines', async () => {
  news(false, [])
  answers['PUT /api/access/lists/{name}/news'] = {}
  await place(ListNews, { list: 'unused' })
  await press('Change')
  await type('input[aria-label="Who is informed"]', 'ann@x.example, bo@x.example')
  await press('Keep it')
  expect(calls('PUT /api/access/lists/{name}/news')[0]!.body).toEqual({
    tickets: false,
    recipients: ['ann@x.example', 'bo@x.example'],
  })
})
