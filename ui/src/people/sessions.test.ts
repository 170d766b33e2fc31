import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import SessionsSection from './SessionsSection.vue'

tidyUp()
standIn()
const at = (id: number, here = false) => ({
  id,
  browser: 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
  address: '192.0.2.7',
  begunAt: '2026-06-15T06:00:00Z',
  here,
})
beforeEach(() => signedIn())

it('names the browser of each session and marks the one in use', async () => {
  answers['GET /api/sessions'] = [at(1, true), at(2)]
  const rows = (await place(SessionsSection)).findAll('tbody tr').map((r) => r.text())
  expect([rows[0]!.includes('this one'), rows[1]!.includes('Sign out there'), rows[1]!.includes('Firefox')]).toEqual([
    true,
    true,
    true,
  ])
})
it('ends another session', async () => {
  answers['GET /api/sessions'] = [at(1, true), at(2)]
  answers['DELETE /api/sessions/{id}'] = {}
  await place(SessionsSection)
  await press('Sign out there')
  expect(calls('DELETE /api/sessions/{id}').length).toBe(1)
})
it('ends all others at once where there are several', async () => {
  answers['GET /api/sessions'] = [at(1, true), at(2), at(3)]
  answers['DELETE /api/sessions'] = {}
  await place(SessionsSection)
  await press('Sign out everywhere but here')
  expect(calls('DELETE /api/sessions').length).toBe(1)
})
it('offers no end of all others where there is one', async () => {
  answers['GET /api/sessions'] = [at(1, true), at(2)]
  await place(SessionsSection)
  expect(button('Sign out everywhere but here')).toBeUndefined()
})
