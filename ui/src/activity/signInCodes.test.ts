import { beforeEach, expect, it } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import SignInCodes from './SignInCodes.vue'

tidyUp()
standIn()
const code = (more: Partial<Schemas['FailureCode']> = {}): Schemas['FailureCode'] => ({
  code: 'E-77',
  words: null,
  next: null,
  own: false,
  count: 4,
  query: 'code == "E-77"',
  ...more,
})
beforeEach(() => signedIn('readActivity', 'manageWatches'))

it('explains a code that nobody explained', async () => {
  answers['PUT /api/activity/sign-in-codes/{code}'] = {}
  await place(SignInCodes, { codes: [code()], days: '30' })
  await press('Explain')
  await type('[aria-label="What it means"]', 'The token was too old.')
  await type('[aria-label="What to do"]', 'Renew it.')
  await press('Explain it so')
  expect(calls('PUT /api/activity/sign-in-codes/{code}')[0]).toMatchObject({
    params: { path: { code: 'E-77' } },
    body: { words: 'The token was too old.', next: 'Renew it.' },
  })
})
it('leaves the catalogue as it is', async () => {
  const wrapper = await place(SignInCodes, {
    codes: [code({ words: 'The password was wrong.', next: 'x' })],
    days: '30',
  })
  expect(wrapper.findAll('button')).toHaveLength(0)
})
it('takes an explanation of one’s own back', async () => {
  answers['DELETE /api/activity/sign-in-codes/{code}'] = {}
  await place(SignInCodes, { codes: [code({ words: 'Old.', next: 'x', own: true })], days: '30' })
  await press('Forget')
  expect(calls('DELETE /api/activity/sign-in-codes/{code}')).toHaveLength(1)
})
it('offers nothing to readers', async () => {
  signedIn('readActivity')
  const wrapper = await place(SignInCodes, { codes: [code()], days: '30' })
  expect(wrapper.findAll('button')).toHaveLength(0)
})
