import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { computed, defineComponent, h, ref, type Ref } from 'vue'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'
import { typedBy } from './forget'
import { useWhatIf } from './written'

interface Thing {
  title: string
  years: number
  clauses: string[]
  owner: string | null
}
const saved: Thing = { title: 'Oil', years: 3, clauses: ['created'], owner: null }

async function at(address: string, subject = 'series.2', loaded: Ref<Thing | null> = ref(saved)) {
  const router: Router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { render: () => null } }],
  })
  await router.push(address)
  let written!: ReturnType<typeof useWhatIf<Thing>>
  mount(
    defineComponent(() => {
      written = useWhatIf<Thing>(subject, () => loaded.value)
      return () => h('p')
    }),
    { global: { plugins: [router] } },
  )
  await flushPromises()
  return { written, told: computed(() => router.currentRoute.value.query.whatif), loaded }
}
const address = (text: string) => `/schedule/2?whatif=${encodeURIComponent(text)}`
beforeEach(() => sessionStorage.clear())

describe('what is written and not saved', () => {
  it('stands in the address by the parts that differ, and no longer once it is dropped', async () => {
    const { written, told } = await at('/schedule/2')
    written.value = { ...saved, years: 5 }
    await flushPromises()
    expect(told.value).toEqual(['series.2:{"years":5}'])
    written.value = null
    await flushPromises()
    expect(told.value).toBeUndefined()
  })
  it('is taken from an address once the saved state is there, over what was written here before', async () => {
    for (const id of [0, 1])
      sessionStorage.setItem(`${typedBy(id)}series.2`, JSON.stringify({ ...saved, title: 'Mine' }))
    const { written, loaded } = await at(address('series.2:{"years":9,"clauses":["filed"]}'), 'series.2', ref(null))
    expect(written.value!.title).toBe('Mine')
    loaded.value = saved
    await flushPromises()
    expect(written.value).toEqual({ ...saved, years: 9, clauses: ['filed'] })
  })
  it('of another subject is neither taken nor lost', async () => {
    const { written, told } = await at(address('blanket.7:{"years":9}'))
    expect(written.value).toBeNull()
    written.value = { ...saved, years: 4 }
    await flushPromises()
    expect(told.value).toEqual(['blanket.7:{"years":9}', 'series.2:{"years":4}'])
  })
  it.each(['series.2:{', 'series.2:5', 'series.2:{"years":"five","clauses":{},"else":1}'])(
    'is passed over where it makes no sense: %s',
    async (text) => {
      const { written, told } = await at(address(text))
      expect(written.value ?? saved).toEqual(saved)
      expect(told.value).toBeUndefined()
    },
  )
  it('is put back by nobody once it was saved', async () => {
    const { written, told, loaded } = await at(address('series.2:{"years":9}'))
    const next = written.value!
    written.value = null
    loaded.value = next
    await flushPromises()
    expect([written.value, told.value]).toEqual([null, undefined])
  })
})
