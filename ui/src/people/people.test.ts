import { expect, it, vi } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import FactorRolesSection from './FactorRolesSection.vue'
import InnerNetworksSection from './InnerNetworksSection.vue'
import PeoplePlace from './PeoplePlace.vue'

tidyUp()
standIn()
const ylva = {
  id: 7,
  name: 'Ylva',
  mail: 'ylva@tarn.example',
  active: true,
  remits: [],
  invited: true,
  oneTimeCodes: false,
  revision: 1,
}
async function people(link: string | null = null) {
  signedIn('managePeople')
  answers['GET /api/people'] = [ylva]
  answers['GET /api/units'] = [{ id: 1, parentId: null, name: 'Tarn', depth: 0 }]
  answers['GET /api/api-keys'] = []
  answers['GET /api/factor-roles'] = { roles: [], without: 0 }
  answers['POST /api/people'] = { person: ylva, link }
  answers['POST /api/people/{id}/invitation'] = { person: ylva, link }
  return place(PeoplePlace)
}

it('says who has not chosen a password yet', async () => {
  expect((await people()).text()).toContain('invited')
})
it('sends no password for a new person', async () => {
  await people()
  await press('Add a person')
  await type('#p-name', 'Ylva')
  await type('#p-mail', 'ylva@tarn.example')
  await press('Save')
  expect(calls('POST /api/people')[0]!.body).toEqual({
    name: 'Ylva',
    mail: 'ylva@tarn.example',
    remits: [{ role: 'staff', unitId: 1 }],
  })
})
it('shows the link to hand over where no mail is sent', async () => {
  await people('/invitation/abc')
  await press('Add a person')
  await type('#p-name', 'Ylva')
  await press('Save')
  await vi.waitFor(() => expect(document.body.textContent).toContain('/invitation/abc'))
})
it('sends another invitation to whoever has not used theirs', async () => {
  const wrapper = await people()
  await wrapper.get('[aria-label="Change Ylva"]').trigger('click')
  await press('Send another invitation')
  expect(calls('POST /api/people/{id}/invitation')).toHaveLength(1)
})
it('marks a role that requires one-time codes', async () => {
  answers['GET /api/factor-roles'] = { roles: ['administrator'], without: 2 }
  answers['PUT /api/factor-roles'] = {}
  const wrapper = await place(FactorRolesSection)
  expect(wrapper.text()).toContain('2 people will set one up at the next sign-in.')
  const boxes = wrapper.findAll('input[type=checkbox]')
  await boxes.find((b) => !(b.element as HTMLInputElement).checked)!.setValue(true)
  expect((calls('PUT /api/factor-roles')[0]!.body as { roles: string[] }).roles).toHaveLength(2)
})
it('saves the networks that may be reached inside', async () => {
  answers['GET /api/inner-networks'] = { networks: '' }
  answers['PUT /api/inner-networks'] = {}
  await place(InnerNetworksSection)
  await type('#inner', '10.4.0.0/16')
  await press('Save')
  expect(calls('PUT /api/inner-networks')[0]!.body).toEqual({ networks: '10.4.0.0/16' })
})
