import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { defineComponent, h } from 'vue'
import DataTable, { type Column } from './DataTable.vue'
import Workbench from './Workbench.vue'

interface Row {
  id: number
  title: string
  group: string
}
const rows: Row[] = Array.from({ length: 40 }, (_, i) => ({
  id: 100 + i,
  title: `Item ${i + 1}`,
  group: i < 20 ? 'Mail' : 'Share',
}))
const columns: Column[] = [
  { key: 'title', label: 'Title', width: 200, grow: true, sort: 'title' },
  { key: 'group', label: 'Container', width: 90 },
]

/** happy-dom lays nothing out; the table must believe that it is 600 px high to show rows. */
const sizes = ['offsetHeight', 'offsetWidth'] as const
const was = sizes.map((name) => [name, Object.getOwnPropertyDescriptor(HTMLElement.prototype, name)] as const)
beforeEach(() => {
  localStorage.clear()
  for (const name of sizes) Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => 600 })
})
afterEach(() => {
  document.body.replaceChildren()
  for (const [name, descriptor] of was) if (descriptor) Object.defineProperty(HTMLElement.prototype, name, descriptor)
})

/** The table takes any kind of row, which the typing of `mount` cannot follow; so it is mounted within a component. */
async function table(props: Record<string, unknown> = {}) {
  const wrapper = mount(
    defineComponent(
      () => () =>
        h(
          DataTable as never,
          { name: 'test', label: 'Items', rows, columns, total: 40, word: 'item', ...props } as never,
          {
            title: ({ row }: { row: Row }) => row.title,
            group: ({ row }: { row: Row }) => row.group,
            empty: () => 'Nothing matches.',
          } as never,
        ),
    ),
    { attachTo: document.body },
  )
  await flushPromises()
  return wrapper.getComponent(DataTable as never) as ReturnType<typeof mount>
}
const key = (name: string) => document.body.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true }))

describe('a table of rows', () => {
  it('draws the rows in sight and not the whole list', async () => {
    const drawn = (await table()).findAll('.body')
    expect(drawn.length).toBeGreaterThan(10)
    expect(drawn.length).toBeLessThan(40)
    expect(drawn[0]!.text()).toBe('Item 1Mail')
  })
  it('tells readers of the screen how many rows there are beyond those drawn', async () => {
    const wrapper = await table({ total: 1289 })
    expect(wrapper.get('[role=grid]').attributes('aria-rowcount')).toBe('1289')
    expect(wrapper.get('.foot').text()).toContain('1,289 items, 40 loaded')
  })
  it('goes down with j, up with k, and opens with Enter', async () => {
    const wrapper = await table()
    key('j')
    key('j')
    key('k')
    key('Enter')
    expect(wrapper.emitted('open')).toEqual([[rows[1]]])
  })
  it('takes what is open along, and stays at the ends', async () => {
    const wrapper = await table({ open: 101 })
    key('j')
    key('k')
    key('k')
    key('k')
    expect(wrapper.emitted('open')).toEqual([[rows[2]], [rows[1]], [rows[0]]])
  })
  it('leaves keys alone while somebody types', async () => {
    const wrapper = await table()
    const input = document.body.appendChild(document.createElement('input'))
    input.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', bubbles: true }))
    key('Enter')
    expect(wrapper.emitted('open')).toEqual([[rows[0]]])
  })
  it('marks with x, and marking one ends that all are meant', async () => {
    const wrapper = await table({ selectable: true, selected: new Set([101]), allSelected: true })
    key('x')
    expect(wrapper.emitted('update:selected')).toEqual([[new Set([101, 100])]])
    expect(wrapper.emitted('update:allSelected')).toEqual([[false]])
  })
  it('offers to mark all that match, with their number', async () => {
    const wrapper = await table({ selectable: true, selected: new Set([100]), total: 1289 })
    const all = wrapper.findAll('.bar button').find((b) => b.text() === 'Mark all 1,289')!
    await all.trigger('click')
    expect(wrapper.emitted('update:allSelected')).toEqual([[true]])
  })
  it('sorts up first and down at the second press, and says which', async () => {
    const up = await table()
    await up.get('.sort').trigger('click')
    expect(up.emitted('update:sort')).toEqual([['title']])
    const down = await table({ sort: 'title' })
    expect(down.get('[aria-sort]').attributes('aria-sort')).toBe('ascending')
    await down.get('.sort').trigger('click')
    expect(down.emitted('update:sort')).toEqual([['-title']])
  })
  it('heads each group once', async () => {
    const wrapper = await table({
      rows: rows.slice(15, 25),
      groupOf: (row: Row, before?: Row) => (row.group === before?.group ? null : row.group),
    })
    expect(wrapper.findAll('.group').map((g) => g.text())).toEqual(['Mail', 'Share'])
  })
  it('hides a column that is not wanted and remembers it', async () => {
    const wrapper = await table()
    await wrapper.findAll('.tools button').at(-1)!.trigger('click')
    await wrapper.findAll('.chooser input')[1]!.setValue(false)
    expect(wrapper.findAll('[role=columnheader]').map((c) => c.text())).toEqual(['Title'])
    await flushPromises()
    expect((await table()).findAll('[role=columnheader]').map((c) => c.text())).toEqual(['Title'])
  })
  it('asks for more before the end is in sight, and not while it is loading', async () => {
    expect((await table({ hasMore: true })).emitted('more')).toBeTruthy()
    expect((await table({ hasMore: true, loading: true })).emitted('more')).toBeUndefined()
  })
  it('says what to do where there is nothing', async () => {
    expect((await table({ rows: [], total: 0 })).get('.empty').text()).toBe('Nothing matches.')
  })
})

describe('a workbench', () => {
  const bench = (props: Record<string, unknown>) =>
    mount(Workbench, {
      props: { name: 'test', ...props },
      slots: { list: 'the list', subject: 'the subject', side: 'the side' },
    })
  it('gives the list all the width until something is opened', () => {
    expect(
      bench({})
        .findAll('.pane')
        .map((p) => p.attributes('aria-label')),
    ).toEqual(['List'])
    expect(
      bench({ subject: true, side: true })
        .findAll('.pane')
        .map((p) => p.attributes('aria-label')),
    ).toEqual(['List', 'Subject', 'Reasons and history'])
  })
  it('is resized by keyboard, within reason', async () => {
    const wrapper = bench({ subject: true, listWidth: 240 })
    const grip = wrapper.get('[aria-label="Width of the list"]')
    await grip.trigger('keydown', { key: 'ArrowLeft' })
    await grip.trigger('keydown', { key: 'ArrowLeft' })
    expect(wrapper.get('[aria-label="Width of the list"]').attributes('aria-valuenow')).toBe('220')
  })
  it('folds the list away, and not when nothing else would be left', async () => {
    const wrapper = bench({ subject: true })
    await wrapper.get('[aria-label="Fold the list away"]').trigger('click')
    expect(wrapper.get('.inner').attributes('style')).toContain('display: none')
    await wrapper.setProps({ subject: false })
    expect(wrapper.get('.inner').attributes('style') ?? '').not.toContain('display: none')
  })
})
