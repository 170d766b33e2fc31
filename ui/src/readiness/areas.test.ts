import { beforeEach, expect, it } from 'vitest'
import { flushPromises } from '@vue/test-utils'
import { answers, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import AreasPlace from './AreasPlace.vue'
import ConnectionsPlace from './ConnectionsPlace.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('readReadiness', 'manageReadiness'))

const area = (kind: string) => place(AreasPlace, {}, `/readiness/areas?kind=${kind}`)
const current = () => document.body.querySelector('[aria-current=page]')?.textContent

it('begins with the people, and says which area is open', async () => {
  answers['GET /api/areas/people'] = {
    inScope: 2,
    guests: 1,
    services: 0,
    units: [{ unit: 'North', people: 2, guests: 1 }],
    joiners: [],
    leavers: [],
    top: [],
    chart: [],
  }
  const text = (await place(AreasPlace, {}, '/readiness/areas')).text()
  expect(text).toMatch(/2 people\s*in scope, 1 guest/)
  const links = [...document.body.querySelectorAll('a')].map((l) => l.getAttribute('href'))
  expect(links).toContain('/access/people?words=North')
  expect(current()).toBe('People')
})
it('opens the chart branch by branch', async () => {
  answers['GET /api/areas/people'] = {
    inScope: 3,
    guests: 0,
    services: 0,
    units: [],
    joiners: [],
    leavers: [],
    top: ['a@x.example'],
    chart: [
      { mail: 'a@x.example', name: 'Ann', title: 'Head', unit: '', reports: ['b@x.example'] },
      { mail: 'b@x.example', name: 'Bo', title: 'Mate', unit: '', reports: ['c@x.example'] },
      { mail: 'c@x.example', name: 'Cy', title: 'Cook', unit: '', reports: [] },
    ],
  }
  const wrapper = await area('people')
  expect(wrapper.text()).toContain('Bo')
  expect(wrapper.text()).not.toContain('Cy')
  await press('Bo')
  expect(wrapper.text()).toContain('Cy')
})
it('ends a loop of managers', async () => {
  answers['GET /api/areas/people'] = {
    inScope: 1,
    guests: 0,
    services: 0,
    units: [],
    joiners: [],
    leavers: [],
    top: ['a@x.example'],
    chart: [{ mail: 'a@x.example', name: 'Ann', title: '', unit: '', reports: ['a@x.example'] }],
  }
  const wrapper = await area('people')
  for (let n = 0; n < 25; n++) {
    const closed = [...document.body.querySelectorAll<HTMLButtonElement>('[aria-expanded=false]')].at(-1)
    closed?.click()
    await flushPromises()
  }
  expect(wrapper.findAll('li')).toHaveLength(20)
})
it('says who has left and still has something', async () => {
  answers['GET /api/areas/people'] = {
    inScope: 0,
    guests: 0,
    services: 0,
    units: [],
    top: [],
    chart: [],
    joiners: [],
    leavers: [
      { mail: 'a@x.example', name: 'Ann', unit: '', on: '2026-06-01', steps: ['Is in Crew.'] },
      { mail: 'b@x.example', name: 'Bo', unit: '', on: '2026-06-20', steps: [] },
    ],
  }
  const wrapper = await area('people')
  expect(wrapper.text()).toContain('▲ 1 have left and still have something')
  expect(wrapper.findAll('a').map((l) => l.attributes('href'))).toContain('/access?person=a%40x.example')
  await wrapper.get('input[type=checkbox]').setValue(true)
  expect(wrapper.text()).not.toContain('Bo')
})
it('says what those who joined have still to do', async () => {
  answers['GET /api/areas/people'] = {
    inScope: 1,
    guests: 0,
    services: 0,
    units: [],
    top: [],
    chart: [],
    leavers: [],
    joiners: [
      {
        mail: 'a@x.example',
        name: 'Ann',
        unit: 'North',
        on: '2026-06-01',
        steps: ['Do the course “Fire”.'],
        late: true,
      },
      { mail: 'b@x.example', name: 'Bo', unit: 'North', on: '2026-07-01', steps: [], late: false },
    ],
  }
  const rows = (await area('people')).findAll('[aria-label="Joiners"] tbody tr').map((r) => r.text())
  expect(rows).toEqual(['AnnNorthjoined 1 Jun 2026▲ Do the course “Fire”.', 'BoNorthjoins 1 Jul 2026✓ nothing'])
})
it('shows each course with who is late, and opens its people', async () => {
  answers['GET /api/areas/training'] = [
    {
      course: 'Fire',
      connection: 'Register',
      done: 8,
      inTime: 1,
      late: 1,
      people: [{ mail: 'a@x.example', name: 'Ann', due: '2026-06-01', done: null, late: true }],
    },
  ]
  const wrapper = await area('training')
  expect(wrapper.text()).toContain('8 of 10 done')
  await press('Fire')
  expect(wrapper.findAll('tbody tr')).toHaveLength(1)
})
it('says how a training register comes where there is none', async () => {
  answers['GET /api/areas/training'] = []
  expect((await area('training')).text()).toContain('Connect one')
})
it('counts changes that were made without approval', async () => {
  answers['GET /api/areas/changes'] = [
    {
      key: 'C-1',
      title: 'Firewall',
      person: '',
      state: 'done',
      opened: null,
      approved: null,
      due: null,
      done: '2026-06-01',
      unapproved: true,
      late: false,
    },
  ]
  expect((await area('change')).text()).toContain('▲ 1 done without approval before')
})
it('gathers incidents from where they are worked on', async () => {
  answers['GET /api/areas/incidents'] = [
    { from: 'ticket', title: 'Till 4', says: 'INC-1', state: 'open', on: null, due: null, open: true, link: '/x' },
    {
      from: 'alert',
      title: 'Night',
      says: '',
      state: 'confirmed',
      on: '2026-06-01',
      due: null,
      open: true,
      link: '/y',
    },
  ]
  answers['GET /api/registers'] = []
  const wrapper = await area('incident')
  expect(wrapper.text()).toContain('2 incidents open')
  await wrapper.get('input[value=alert]').setValue(true)
  expect(wrapper.findAll('tbody tr').map((r) => r.find('a').text())).toEqual(['Night'])
})

const supplier = (documents: object[] = []) => ({
  id: 3,
  settings: {
    kind: 'supplier',
    title: 'Charts',
    says: '',
    owner: '',
    due: '2026-05-01',
    mark: '1',
    controls: ['SUP-01'],
  },
  overdue: true,
  documents,
  revision: 2,
})
it('shows the documents of a supplier until their last day', async () => {
  answers['GET /api/registers'] = [
    supplier([
      {
        id: 1,
        title: 'Contract',
        fileName: 'a.pdf',
        bytes: 10,
        hash: '',
        validThrough: '2026-05-01',
        ended: true,
        givenAt: '',
        by: '',
      },
    ]),
  ]
  expect((await area('supplier')).text()).toContain('▲ expired 1 May 2026')
})
it('gives a document with its last day', async () => {
  answers['GET /api/registers'] = [supplier()]
  answers['POST /api/registers/{id}/documents'] = {}
  const wrapper = await area('supplier')
  await press('Add a document')
  const field = document.body.querySelector<HTMLInputElement>('input[type=file]')!
  Object.defineProperty(field, 'files', { value: [new File(['x'], 'contract.pdf')], configurable: true })
  field.dispatchEvent(new Event('change'))
  await flushPromises()
  await wrapper.get('form.add').trigger('submit')
  await flushPromises()
  expect(calls('POST /api/registers/{id}/documents')).toHaveLength(1)
  expect(wrapper.find('form.add').exists()).toBe(false)
})
it('adds a risk with its likelihood and impact', async () => {
  answers['GET /api/registers'] = []
  answers['POST /api/registers'] = {}
  await area('risk')
  await press('Add a risk')
  await type('#e-title', 'Fire')
  await press('Save')
  expect(calls('POST /api/registers')[0]!.body).toMatchObject({
    kind: 'risk',
    title: 'Fire',
    likelihood: 3,
    impactAfter: 3,
  })
})
it('opens the heat map into its risks', async () => {
  const risk = (id: number, likelihoodAfter: number) => ({
    id,
    settings: {
      kind: 'risk',
      title: `Risk ${id}`,
      likelihood: 5,
      impact: 5,
      likelihoodAfter,
      impactAfter: 2,
      controls: [],
    },
    overdue: false,
    documents: [],
    revision: 1,
  })
  answers['GET /api/registers'] = [risk(1, 2), risk(2, 4)]
  const wrapper = await area('risk')
  await wrapper.get('[aria-label="Likelihood 4, impact 2: 1 risks"]').trigger('click')
  expect(wrapper.text()).toContain('Risk 2')
  expect(wrapper.text()).not.toContain('Risk 1')
})

const connection = (more = {}) => ({
  id: 5,
  kind: 'hosts',
  name: 'Inventory',
  address: 'http://127.0.0.1:5081',
  lastAt: '2026-06-15T06:00:00Z',
  hash: 'abcdef0123456789abcdef',
  failure: '',
  records: 84,
  revision: 1,
  ...more,
})
const connections = (...list: object[]) => {
  answers['GET /api/connections'] = list
  answers['GET /api/connections/{id}/records'] = {
    total: 1,
    records: [
      {
        key: 'a',
        title: 'desk-01',
        person: '',
        sort: 'desk',
        state: '',
        opened: null,
        due: null,
        done: null,
        late: false,
        facts: '{"key":"a","supportEnds":"2026-12-31","encrypted":true}',
      },
    ],
  }
}
it('says what each program knows, and why one does not answer', async () => {
  connections(connection({ failure: 'It answered 500.' }))
  const text = (await place(ConnectionsPlace)).text()
  expect(text).toContain('machines · 84 records')
  expect(text).toContain('▲ It answered 500.')
})
it('shows the records of a connection', async () => {
  connections(connection())
  const wrapper = await place(ConnectionsPlace, {}, '/readiness/connections?connection=5')
  expect(wrapper.text()).toContain('desk-01')
  expect(wrapper.text()).toContain('support ends 31 Dec 2026 · encrypted yes')
})
it('reads a program by one press', async () => {
  connections(connection())
  answers['POST /api/connections/{id}/reading'] = {}
  await place(ConnectionsPlace, {}, '/readiness/connections?connection=5')
  await press('Read it now')
  expect(calls('POST /api/connections/{id}/reading')).toHaveLength(1)
})
it('tries a program before it is kept', async () => {
  connections()
  answers['POST /api/connections/trial'] = { total: 84, records: [{ title: 'desk-01' }] }
  const wrapper = await place(ConnectionsPlace)
  await press('Connect a program')
  await type('#co-name', 'Inventory')
  await type('#co-key', 'a key of sixteen or more')
  await press('Try it')
  expect(wrapper.get('[role=status]').text()).toContain('84 records')
  expect(calls('POST /api/connections')).toHaveLength(0)
})
it('says what goes before it disconnects', async () => {
  connections(connection())
  answers['DELETE /api/connections/{id}'] = {}
  await place(ConnectionsPlace, {}, '/readiness/connections?connection=5')
  await press('Disconnect')
  expect(document.body.textContent).toContain('Its 84 records go')
  await press('Disconnect it')
  expect(calls('DELETE /api/connections/{id}')).toHaveLength(1)
})
it('keeps the key that there is where none is typed', async () => {
  connections(connection())
  answers['PUT /api/connections/{id}'] = {}
  const wrapper = await place(ConnectionsPlace, {}, '/readiness/connections?connection=5')
  await press('Change')
  await wrapper.get('form').trigger('submit')
  await flushPromises()
  expect(calls('PUT /api/connections/{id}')[0]!.body).toMatchObject({ name: 'Inventory', secret: null })
})
it('says which controls answer a risk', async () => {
  answers['GET /api/registers'] = []
  answers['GET /api/controls'] = [{ id: 1, settings: { code: 'REC-03', title: 'Protected' } }]
  const wrapper = await area('risk')
  await press('Add a risk')
  expect(wrapper.findAllComponents({ name: 'ElOption' }).map((o) => o.props('label'))).toContain('REC-03 Protected')
})
