import { expect, it } from 'vitest'
import { answers, button, calls, place, press, standIn, tidyUp, type } from '@/shared/testing'
import InvitationPage from './InvitationPage.vue'

tidyUp()
standIn()
const open = () => {
  answers['GET /api/invitations/{token}'] = { organisation: 'Tarnholm', name: 'Ylva', mail: 'ylva@tarn.example' }
  answers['POST /api/invitations/{token}'] = {}
  return place(InvitationPage, {}, '/invitation/tok')
}
async function typed(next: string, again: string) {
  await type('#in-next', next)
  await type('#in-again', again)
}

it('says whose account it opens', async () => {
  expect((await open()).text()).toContain('Ylva, ylva@tarn.example')
})
it('sends a password that was typed twice alike', async () => {
  await open()
  await typed('Winter-quay-lantern', 'Winter-quay-lantern')
  await press('Save')
  expect(calls('POST /api/invitations/{token}')[0]!.body).toEqual({ password: 'Winter-quay-lantern' })
})
it('does not send one that differs', async () => {
  await open()
  await typed('Winter-quay-lantern', 'Winter-quay-lanterm')
  expect(button('Save')!.disabled).toBe(true)
})
it('leads to the sign-in once it was saved', async () => {
  const wrapper = await open()
  await typed('Winter-quay-lantern', 'Winter-quay-lantern')
  await press('Save')
  expect(wrapper.get('a').attributes('href')).toBe('/')
})
it('says why a link opens nothing', async () => {
  answers['GET /api/invitations/{token}'] = new Error('This link has expired or was used.')
  expect((await place(InvitationPage, {}, '/invitation/tok')).get('[role=alert]').text()).toBe(
    'This link has expired or was used.',
  )
})
