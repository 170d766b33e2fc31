import { flushPromises, type VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { answers, calls, place, press, signedIn, standIn, tidyUp } from '@/shared/testing'
import type { Schemas } from '@/shared/api/client'
import MappingEditor from './MappingEditor.vue'
import NetworksPanel from './NetworksPanel.vue'

tidyUp()
standIn()
beforeEach(() => signedIn('manageChannels'))

/** A file is chosen in a field, as a person would. */
async function choose(wrapper: VueWrapper, selector: string, name: string, text: string) {
  const input = wrapper.find<HTMLInputElement>(selector)
  Object.defineProperty(input.element, 'files', { value: [new File([text], name)], configurable: true })
  await input.trigger('change')
  await flushPromises()
  await new Promise((done) => setTimeout(done))
  await flushPromises()
}

describe('a mapping', () => {
  const header = ['When', 'User name', 'IP addr', 'Result', 'Colour']
  const line = (more: Partial<Schemas['TriedLine']>): Schemas['TriedLine'] => ({
    line: 2,
    event: null,
    reason: '',
    ...more,
  })
  const editor = async (format: Schemas['EventFormat'] = 'csv') => {
    const wrapper = await place(MappingEditor, { modelValue: null, format })
    await choose(wrapper, 'input[type=file]', 'log.csv', 'When,User name\n')
    return wrapper
  }
  const last = (wrapper: VueWrapper) => wrapper.emitted<[Schemas['EventMapping']]>('update:modelValue')!.at(-1)![0]

  it('guesses from a column’s name what it becomes', async () => {
    answers['POST /api/channels/trial'] = { header, lines: [] }
    expect(last(await editor()).columns).toMatchObject({
      When: 'time',
      'User name': 'actor',
      'IP addr': 'address',
      Result: 'outcome',
      Colour: '',
    })
  })
  it('gives no field to two columns', async () => {
    answers['POST /api/channels/trial'] = { header: ['Start time', 'End time'], lines: [] }
    expect(last(await editor()).columns).toEqual({ 'Start time': 'time', 'End time': '' })
  })
  it('is tried only when a column is the time', async () => {
    answers['POST /api/channels/trial'] = { header: ['Colour'], lines: [] }
    await editor()
    expect((calls('POST /api/channels/trial')[0]!.body as { mapping: unknown }).mapping).toBeNull()
  })
  it('is sent with the next try', async () => {
    answers['POST /api/channels/trial'] = { header, lines: [] }
    const wrapper = await editor()
    await wrapper.setProps({ modelValue: last(wrapper) })
    await press('Try again')
    expect(
      (calls('POST /api/channels/trial')[1]!.body as { mapping: { columns: object } }).mapping.columns,
    ).toMatchObject({ When: 'time' })
  })
  it('shows the reason of a line that cannot be taken', async () => {
    answers['POST /api/channels/trial'] = { header: [], lines: [line({ reason: 'It has no time.' })] }
    const wrapper = await editor('json')
    expect(wrapper.find('ol').text()).toBe('▲ line 2: It has no time.')
  })
  it('shows what a line becomes', async () => {
    const event = { time: '2026-06-14T08:00:00Z', actor: 'ann', action: 'file.read' }
    answers['POST /api/channels/trial'] = { header: [], lines: [line({ event, reason: '' })] }
    const wrapper = await editor('json')
    expect(wrapper.find('ol').text()).toBe('line 2: 2026-06-14T08:00:00Z · ann · file.read')
  })
  it('offers no columns where the lines are no table', async () => {
    answers['POST /api/channels/trial'] = { header: [], lines: [] }
    expect((await editor('json')).find('table').exists()).toBe(false)
  })
})

describe('networks and places', () => {
  beforeEach(() => (answers['GET /api/networks'] = [{ name: 'Office', ranges: ['192.0.2.0/24'], egress: true }]))

  it('are saved with their ranges apart', async () => {
    answers['PUT /api/networks'] = {}
    const wrapper = await place(NetworksPanel)
    await wrapper.find('input[aria-label="Ranges of Office"]').setValue('192.0.2.0/24, 198.51.100.0/24')
    await press('Save the networks')
    expect(calls('PUT /api/networks')[0]!.body).toEqual([
      { name: 'Office', ranges: ['192.0.2.0/24', '198.51.100.0/24'], egress: true },
    ])
  })
  it('can lose a network', async () => {
    answers['PUT /api/networks'] = {}
    await place(NetworksPanel)
    await press('Take away')
    await press('Save the networks')
    expect(calls('PUT /api/networks')[0]!.body).toEqual([])
  })
  it.each([
    ['places.csv', 'PUT /api/places/csv'],
    ['Places.MMDB', 'PUT /api/places/mmdb'],
  ])('send %s to %s', async (name, path) => {
    answers[path] = {}
    const wrapper = await place(NetworksPanel)
    await choose(wrapper, 'input[type=file]', name, 'x')
    expect([calls(path).length, wrapper.find('[role=status]').text()]).toEqual([
      1,
      `${name} is the table of places now.`,
    ])
  })
  it('say why a table of places was refused, and name no new one', async () => {
    answers['PUT /api/places/csv'] = new Error('Line 3: no network.')
    const wrapper = await place(NetworksPanel)
    await choose(wrapper, 'input[type=file]', 'places.csv', 'x')
    expect([wrapper.find('[role=alert]').text(), wrapper.find('[role=status]').exists()]).toEqual([
      'Line 3: no network.',
      false,
    ])
  })
})
