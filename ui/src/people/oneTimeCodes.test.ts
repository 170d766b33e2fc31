import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { session } from '@/shared/session'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import OneTimeCodes from './OneTimeCodes.vue'
import PeoplePlace from './PeoplePlace.vue'
import SignIn from './SignIn.vue'

tidyUp()
standIn()
const key = { key: 'GEZDGNBVGY3TQOJQ', address: 'otpauth://totp/x', qrSize: 3, qrPath: 'M0 0h1v1h-1z' }
const refusal = (code: string, sentence: string) => Object.assign(new Error(sentence), { name: code })
const on = { since: '2026-06-15T06:00:00Z', recoveryCodesLeft: 9 }
const dialog = () => document.body.querySelector('.el-dialog')!

describe('setting one-time codes up', () => {
  const withKey = async () => {
    answers['GET /api/session/one-time-codes'] = { since: null, recoveryCodesLeft: 0 }
    answers['POST /api/session/one-time-codes'] = key
    await place(OneTimeCodes)
    await press('Set them up')
    await type('#otc-password', 'my-own-password')
    await press('Go on')
  }
  beforeEach(() => signedIn())
  it('asks for the password first', async () => {
    await withKey()
    expect(calls('POST /api/session/one-time-codes')[0]!.body).toEqual({ password: 'my-own-password' })
  })
  it('shows the key in groups of four', async () => {
    await withKey()
    expect(dialog().querySelector('.key')!.textContent).toBe('GEZD GNBV GY3T QOJQ')
  })
  it('draws the QR code', async () => {
    await withKey()
    expect(dialog().querySelector('.qr path')!.getAttribute('d')).toBe(key.qrPath)
  })
  it('goes on to the field of the code', async () => {
    await withKey()
    expect(document.activeElement?.id).toBe('otc-code')
  })
  it('is done by a code, and shows the recovery codes', async () => {
    await withKey()
    answers['POST /api/session/one-time-codes/confirmation'] = { codes: ['k3qd-x8mh-92tv-bwr7'] }
    await type('#otc-code', '287082')
    await press('Turn one-time codes on')
    expect(dialog().querySelector('.codes')!.textContent).toContain('k3qd-x8mh-92tv-bwr7')
  })
  it('keeps the key on screen where the code is wrong', async () => {
    await withKey()
    answers['POST /api/session/one-time-codes/confirmation'] = refusal('one-time-code-wrong', 'This code is wrong.')
    await type('#otc-code', '000000')
    await press('Turn one-time codes on')
    expect([dialog().querySelector('[role=alert]')!.textContent, !!dialog().querySelector('.qr')]).toEqual([
      'This code is wrong.',
      true,
    ])
  })
  it('leaves nothing secret behind once it is closed', async () => {
    await withKey()
    await press('Leave it')
    await press('Set them up')
    expect(dialog().querySelector('.qr')).toBeNull()
  })
})

describe('one-time codes that are on', () => {
  beforeEach(() => {
    signedIn()
    answers['GET /api/session/one-time-codes'] = on
  })
  it('say how many recovery codes are left', async () => {
    expect((await place(OneTimeCodes)).text()).toContain('9 recovery codes are left')
  })
  it('are turned off by password and code', async () => {
    answers['POST /api/session/one-time-codes/turn-off'] = {}
    await place(OneTimeCodes)
    await press('Turn them off …')
    await type('#otc-password', 'my-own-password')
    await type('#otc-code', '287082')
    await press('Turn them off')
    expect(calls('POST /api/session/one-time-codes/turn-off')[0]!.body).toEqual({
      password: 'my-own-password',
      code: '287082',
    })
  })
  it('get new recovery codes', async () => {
    answers['POST /api/session/one-time-codes/recovery-codes'] = { codes: ['aaaa-bbbb-cccc-dddd'] }
    await place(OneTimeCodes)
    await press('New recovery codes')
    await type('#otc-password', 'my-own-password')
    await type('#otc-code', '287082')
    await press('Make new ones')
    expect(dialog().textContent).toContain('aaaa-bbbb-cccc-dddd')
  })
})

describe('a sign-in that asks for a code', () => {
  const asked = async () => {
    session.value = null
    answers['POST /api/session'] = refusal('one-time-code-needed', 'Type the code.')
    const wrapper = await place(SignIn)
    await type('#mail', 'ines@tarn.example')
    await type('#password', 'my-own-password')
    await wrapper.get('form').trigger('submit')
    await flushPromises()
    return wrapper
  }
  it('does not call the missing code a fault', async () => {
    expect((await asked()).find('[role=alert]').exists()).toBe(false)
  })
  it('puts the focus into the field of the code', async () => {
    await asked()
    expect(document.activeElement?.id).toBe('code')
  })
  it('sends the password once more, with the code', async () => {
    const wrapper = await asked()
    answers['POST /api/session'] = signedIn('readContent')
    await type('#code', '287082')
    await wrapper.get('form').trigger('submit')
    await flushPromises()
    expect(calls('POST /api/session')[1]!.body).toEqual({
      mail: 'ines@tarn.example',
      password: 'my-own-password',
      code: '287082',
    })
  })
  it('says why a code was not taken, and empties the field', async () => {
    const wrapper = await asked()
    answers['POST /api/session'] = refusal('one-time-code-wrong', 'This code is wrong.')
    await type('#code', '000000')
    await wrapper.get('form').trigger('submit')
    await flushPromises()
    expect([wrapper.get('[role=alert]').text(), wrapper.get<HTMLInputElement>('#code').element.value]).toEqual([
      'This code is wrong.',
      '',
    ])
  })
  it('goes back to mail address and password', async () => {
    await asked()
    await press('Sign in as somebody else')
    expect(document.getElementById('mail')).not.toBeNull()
  })
})

describe('the people', () => {
  const pia = {
    id: 7,
    name: 'Pia Lind',
    mail: 'pia@tarn.example',
    active: true,
    remits: [],
    lockedOut: false,
    revision: 1,
  }
  it('say who has one-time codes', async () => {
    answers['GET /api/people'] = [{ ...pia, oneTimeCodes: true }]
    answers['GET /api/units'] = []
    expect((await place(PeoplePlace)).text()).toContain('active, one-time codes')
  })
  it('have them turned off by an administrator', async () => {
    answers['GET /api/people'] = [{ ...pia, oneTimeCodes: true }]
    answers['GET /api/units'] = []
    answers['DELETE /api/people/{id}/one-time-codes'] = {}
    await place(PeoplePlace)
    await press('Change')
    await press('Turn them off')
    expect(calls('DELETE /api/people/{id}/one-time-codes')[0]!.params).toEqual({ path: { id: 7 } })
  })
  it('keep what else is typed when they are turned off', async () => {
    answers['GET /api/people'] = [{ ...pia, oneTimeCodes: true }]
    answers['GET /api/units'] = []
    answers['DELETE /api/people/{id}/one-time-codes'] = {}
    await place(PeoplePlace)
    await press('Change')
    await type('#p-name', 'Pia Lindgren')
    await press('Turn them off')
    expect(document.querySelector<HTMLInputElement>('#p-name')!.value).toBe('Pia Lindgren')
  })
  it('offer no such act for whoever has none', async () => {
    answers['GET /api/people'] = [{ ...pia, oneTimeCodes: false }]
    answers['GET /api/units'] = []
    await place(PeoplePlace)
    await press('Change')
    expect(button('Turn them off')).toBeUndefined()
  })
})
