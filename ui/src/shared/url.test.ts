import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { ifMatch, Problem, take } from '@/shared/api/client'
import { useUrl } from './url'

async function place(address: string) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/', component: { render: () => h('p') } }],
  })
  await router.push(address)
  let url!: ReturnType<typeof useUrl>
  mount(
    defineComponent(() => ((url = useUrl()), () => h('p'))),
    { global: { plugins: [router] } },
  )
  return { router, url }
}

describe('state in the address', () => {
  it('reads one value as a list of one, and none as none', async () => {
    const { url } = await place('/?type=md&type=pdf&series=4')
    expect(url.list('type')).toEqual(['md', 'pdf'])
    expect(url.list('series')).toEqual(['4'])
    expect(url.list('unit')).toEqual([])
    expect(url.number('series').value).toBe(4)
    expect(url.number('item').value).toBeNull()
  })
  it('leaves what is not changed, and drops what is empty', async () => {
    const { router, url } = await place('/?type=md&series=4')
    await url.put({ series: null, words: 'pier', type: [] })
    expect(router.currentRoute.value.fullPath).toBe('/?words=pier')
  })
  it('makes a step back possible for what is opened and not for each letter typed', async () => {
    const { router, url } = await place('/')
    const [push, replace] = [vi.spyOn(router, 'push'), vi.spyOn(router, 'replace')]
    url.number('item').value = 7
    await flushPromises()
    expect(push).toHaveBeenCalledTimes(1)
    url.text('words').value = 'pier'
    await flushPromises()
    expect(replace).toHaveBeenCalledTimes(1)
    expect(router.currentRoute.value.query).toEqual({ item: '7', words: 'pier' })
  })
})

describe('an answer of the server', () => {
  const answer = (error: unknown, status: number) =>
    Promise.resolve({ error, response: new Response(null, { status }) })
  it('that is a refusal is thrown with its code, its words and the field at fault', async () => {
    const refused = take(
      answer({ type: 'urn:widekeel:problem:stale', title: 'Somebody saved first.', field: 'revision' }, 412),
    )
    await expect(refused).rejects.toMatchObject({
      code: 'stale',
      message: 'Somebody saved first.',
      field: 'revision',
      status: 412,
    })
    await expect(refused).rejects.toBeInstanceOf(Problem)
  })
  it('without a word is still told', async () => {
    await expect(take(answer(undefined, 502))).rejects.toMatchObject({
      code: 'fault',
      message: 'The server answered 502.',
    })
  })
  it('guards a write by the revision that was read', () => {
    expect(ifMatch(12)).toEqual({ headers: { 'If-Match': '"12"' } })
  })
})
