import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, h, ref, type Ref } from 'vue'
import { useLoaded } from './loaded'

/** A list whose things are loaded when the test says so. */
function list() {
  const open = ref<number | null>(1)
  const waiting: Record<number, () => void> = {}
  let shown!: Ref<number | null>
  mount(
    defineComponent(() => {
      shown = useLoaded(open, (id) => ({
        queryKey: ['thing', id],
        queryFn: () => new Promise((done) => (waiting[id] = () => done(id))),
      }))
      return () => h('p')
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } },
  )
  return { open, shown, arrive: async (id: number) => (waiting[id]!(), await flushPromises()) }
}

it('the pane goes on showing what was open while the next one loads', async () => {
  const { open, shown, arrive } = list()
  await arrive(1)
  open.value = 2
  await flushPromises()
  expect(shown.value).toBe(1)
})
it('the pane shows the next one once it is there', async () => {
  const { open, shown, arrive } = list()
  await arrive(1)
  open.value = 2
  await flushPromises()
  await arrive(2)
  expect(shown.value).toBe(2)
})
it('the pane closes at once', async () => {
  const { open, shown, arrive } = list()
  await arrive(1)
  open.value = null
  expect(shown.value).toBeNull()
})
