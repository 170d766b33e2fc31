import { beforeEach, expect, it } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import SecondPersonSection from './SecondPersonSection.vue'

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
