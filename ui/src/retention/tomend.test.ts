import { beforeEach, describe, expect, it } from 'vitest'
import type { Schemas } from '@/shared/api/client'
import { answers, button, calls, place, press, signedIn, standIn, tidyUp, type } from '@/shared/testing'
import ToMendPlace from './ToMendPlace.vue'

tidyUp()
standIn()
beforeEach(() => {
  signedIn('writeSchedule', 'readContent')
  sessionStorage.clear()
})

const row = (itemId: number, kind: Schemas['ToMend'] = 'floor'): Schemas['ToMendRow'] => ({
  itemId,
  title: `Log ${itemId}`,
  path: `Fleet/log ${itemId}.md`,
  kind,
  since: '2026-06-01',
  says: 'Its rules would keep it through 1 Mar 2014; it stays kept through 1 Mar 2034.',
})
const list = (rows: Schemas['ToMendRow'][], address = '/schedule/to-mend') => {
  answers['GET /api/schedule/to-mend'] = {
    rows,
    next: null,
    total: rows.length,
    counts: { floor: rows.length, field: 0, altered: 0 },
  }
  return place(ToMendPlace, {}, address)
}

describe('what is to be mended', () => {
  it('counts every kind, and says both dates of each item', async () => {
    const wrapper = await list([row(1), row(2)])
    expect(wrapper.findAll('.kind strong').map((s) => s.text())).toEqual(['2', '0', '0'])
    expect(wrapper.get('tbody tr').text()).toContain('1 Mar 2034')
  })
  it('is settled with a reason, for those that were chosen', async () => {
    answers['POST /api/schedule/to-mend/settlements'] = { items: 1 }
    const wrapper = await list([row(1), row(2)])
    await wrapper.get('tbody tr:nth-child(2) input').setValue(true)
    await press('Settle 1 item')
    await type('#why', 'The copy was misdated.')
    await press('Settle')
    expect(calls('POST /api/schedule/to-mend/settlements')[0]!.body).toEqual({
      kind: 'floor',
      items: [2],
      why: 'The copy was misdated.',
    })
  })
  it('can be chosen whole', async () => {
    const wrapper = await list([row(1), row(2)])
    await wrapper.get('thead input').setValue(true)
    expect(button('Settle 2 items')).toBeDefined()
  })
  it('offers no settling of fields: they are mended where they stand', async () => {
    const wrapper = await list([row(1, 'field')], '/schedule/to-mend?kind=field')
    expect(wrapper.find('tbody input').exists()).toBe(false)
  })
  it('keeps the choice while the server refuses, and says why', async () => {
    answers['POST /api/schedule/to-mend/settlements'] = new Error('Some of these are no longer in the list.')
    const wrapper = await list([row(1)])
    await wrapper.get('tbody input').setValue(true)
    await press('Settle 1 item')
    await type('#why', 'x')
    await press('Settle')
    expect(document.body.querySelector('.el-dialog [role=alert]')!.textContent).toContain('no longer in the list')
  })
  it('says so where nothing of the kind is left', async () => {
    const wrapper = await list([])
    expect(wrapper.text()).toContain('Nothing of this kind is to be mended.')
  })
})
