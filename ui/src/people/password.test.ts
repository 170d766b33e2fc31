import { describe, expect, it } from 'vitest'
import { session } from '@/shared/session'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import ChoosePassword from './ChoosePassword.vue'

tidyUp()
standIn()

describe('a password of one’s own', () => {
  const typed = async (current: string, next: string, again: string) => {
    await type('#pw-current', current)
    await type('#pw-next', next)
    await type('#pw-again', again)
  }
  it('is not sent before it was typed twice alike', async () => {
    await place(ChoosePassword)
    await typed('the-given-one', 'a-new-password', 'a-new-passwort')
    expect(button('Change password')!.disabled).toBe(true)
  })
  it('says that the two differ', async () => {
    const wrapper = await place(ChoosePassword)
    await typed('the-given-one', 'a-new-password', 'a-new-passwort')
    expect(wrapper.get('[role=alert]').text()).toBe('The two are not the same.')
  })
  it('goes with the current one, and the session goes on with the answer', async () => {
    answers['POST /api/session/password'] = { ...signedIn('readContent'), token: 'another token' }
    await place(ChoosePassword)
    await typed('the-given-one', 'a-new-password', 'a-new-password')
    await press('Change password')
    expect(calls('POST /api/session/password')[0]!.body).toEqual({
      current: 'the-given-one',
      password: 'a-new-password',
    })
    expect(session.value?.token).toBe('another token')
  })
  it('stays in the form with the reason where it is refused', async () => {
    answers['POST /api/session/password'] = new Error('This is not your current password.')
    const wrapper = await place(ChoosePassword)
    await typed('wrong', 'a-new-password', 'a-new-password')
    await press('Change password')
    expect(wrapper.get('[role=alert]').text()).toBe('This is not your current password.')
  })
})
