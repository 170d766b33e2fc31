import { beforeEach, expect, it } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import SecondPersonSection from './SecondPersonSection.vue'
import ServerSection from './ServerSection.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('manageSettings'))

it('asks for a second person for acts about alerts', async () => {
  answers['GET /api/alert-settings'] = { actsNeedSecond: false }
  answers['PUT /api/alert-settings'] = {}
  await place(SecondPersonSection, {})
  await press('Ask for a second person from now on')
  expect(calls('PUT /api/alert-settings')[0]!.body).toEqual({ actsNeedSecond: true })
})
it('says that acts wait where they do', async () => {
  answers['GET /api/alert-settings'] = { actsNeedSecond: true }
  const wrapper = await place(SecondPersonSection, {})
  expect(wrapper.text()).toContain('Each act waits until a second analyst agrees.')
})

it('says that the server does all that it does by itself', async () => {
  answers['GET /api/troubles'] = []
  expect((await place(ServerSection, {})).text()).toContain('✓ It does all that it does by itself')
})
it('gives each trouble its cause and the screen where it can be seen', async () => {
  answers['GET /api/troubles'] = [
    {
      key: 'outbox',
      title: 'Messages are not sent',
      why: 'The server’s disk is full.',
      since: '2026-06-15T08:00:00Z',
      link: '/set-up/messages',
    },
  ]
  const wrapper = await place(ServerSection, {})
  expect(wrapper.text()).toContain('The server’s disk is full.')
  expect(wrapper.get('a').attributes('href')).toBe('/set-up/messages')
})
