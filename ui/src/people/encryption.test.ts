import { beforeEach, expect, it } from 'vitest'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import EncryptionSection from './EncryptionSection.vue'

tidyUp()
standIn()
const key = (id: string, madeAt: string) => ({ id, madeAt })
const contents = (inTheOpen: number, encrypted: number) => [{ name: 'Archive', inTheOpen, encrypted }]
beforeEach(() => signedIn('manageSettings'))

it('says what encryption means before it is begun', async () => {
  answers['GET /api/encryption'] = { keys: [], contents: contents(12, 0) }
  expect((await place(EncryptionSection)).text()).toContain('without it nobody reads them again')
})
it('is begun by one press', async () => {
  answers['GET /api/encryption'] = { keys: [], contents: contents(12, 0) }
  answers['POST /api/encryption'] = {}
  await place(EncryptionSection)
  await press('Encrypt them from now on')
  expect(calls('POST /api/encryption').length).toBe(1)
})
it('marks what still lies in the open', async () => {
  answers['GET /api/encryption'] = { keys: [key('abcdef01-2', '2026-06-01T08:00:00Z')], contents: contents(2, 10) }
  expect((await place(EncryptionSection)).find('.lacking').text()).toBe('2 in the open')
})
it('rotates the keys and shows the newest', async () => {
  answers['GET /api/encryption'] = {
    keys: [key('bbbbbbbb-2', '2026-06-10T08:00:00Z'), key('aaaaaaaa-1', '2026-06-01T08:00:00Z')],
    contents: contents(0, 12),
  }
  answers['POST /api/encryption/rotation'] = {}
  const wrapper = await place(EncryptionSection)
  expect(wrapper.find('.code').text()).toBe('bbbbbbbb')
  await press('Rotate the keys')
  expect(calls('POST /api/encryption/rotation').length).toBe(1)
})
it('offers no second beginning', async () => {
  answers['GET /api/encryption'] = { keys: [key('abcdef01-2', '2026-06-01T08:00:00Z')], contents: contents(0, 1) }
  await place(EncryptionSection)
  expect(button('Encrypt them from now on')).toBeUndefined()
})
