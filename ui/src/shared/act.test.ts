import { VueQueryPlugin, QueryClient, useQuery } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { useAct } from './act'
import { useParts } from '@/shared/parts'
import { Problem } from '@/shared/api/client'

useParts([{ name: 'toys', stale: { things: [['thing']] } }])

/** A place that reads one thing and can act. */
function place(changes: readonly string[] = ['things'], options?: Parameters<typeof useAct>[1]) {
  const read = vi.fn(() => Promise.resolve('read'))
  let acts!: ReturnType<typeof useAct>
  mount(
    defineComponent(() => {
      useQuery({ queryKey: ['thing'], queryFn: read })
      acts = useAct(changes, options)
      return () => h('p')
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } },
  )
  return { acts, read }
}

describe('an act of a place', () => {
  it('reads what is shown anew once it is done', async () => {
    const { acts, read } = place()
    await flushPromises()
    expect(await acts.act(() => Promise.resolve())).toBe(true)
    expect(read).toHaveBeenCalledTimes(2)
  })
  it('leaves what is shown alone where the place puts the answer in itself', async () => {
    const { acts, read } = place([])
    await flushPromises()
    await acts.act(() => Promise.resolve())
    expect(read).toHaveBeenCalledTimes(1)
  })
  it('keeps the refusal, and forgets it when the next act begins', async () => {
    const { acts } = place()
    expect(await acts.act(() => Promise.reject(new Problem('held', 'A hold keeps it.')))).toBe(false)
    expect(acts.problem.value?.message).toBe('A hold keeps it.')
    await acts.act(() => Promise.resolve())
    expect(acts.problem.value).toBeNull()
  })
  it('tells the place about a refusal', async () => {
    const refused = vi.fn(() => Promise.resolve())
    const { acts } = place(['things'], { refused })
    await acts.act(() => Promise.reject(new Problem('stale', 'Somebody was first.')))
    expect(refused).toHaveBeenCalledWith(expect.objectContaining({ code: 'stale' }))
  })
  it('does not do the work twice when it is pressed twice', async () => {
    const { acts } = place()
    let finish!: () => void
    const work = vi.fn(() => new Promise<void>((done) => (finish = done)))
    const first = acts.act(work)
    expect(acts.busy.value).toBe(true)
    expect(await acts.act(work)).toBe(false)
    finish()
    await first
    expect(work).toHaveBeenCalledTimes(1)
    expect(acts.busy.value).toBe(false)
  })
  it('does each press in its turn where a list is marked', async () => {
    const { acts } = place(['things'], { inTurn: true })
    const order: number[] = []
    let finish!: () => void
    const first = acts.act(() => new Promise<void>((done) => (finish = () => (order.push(1), done()))))
    const second = acts.act(() => Promise.resolve(void order.push(2)))
    await flushPromises()
    expect(order).toEqual([])
    finish()
    expect(await Promise.all([first, second])).toEqual([true, true])
    expect(order).toEqual([1, 2])
  })
})
