import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import { effectScope, reactive } from 'vue'
import { forgetTyped } from './forget'
import { session } from './session'
import { keepTyped, useTyped } from './typed'

const as = (id: number) => (session.value = { person: { id } } as typeof session.value)

/** A place that is opened, typed into, and left. */
async function visit<T>(work: () => T): Promise<T> {
  const scope = effectScope()
  const result = scope.run(work)!
  await flushPromises()
  scope.stop()
  return result
}
const type = (text: string) => visit(() => (useTyped<string>('place').value = text))
const read = () => visit(() => useTyped<string>('place').value)

describe('what is typed and not saved', () => {
  beforeEach(() => {
    sessionStorage.clear()
    as(1)
  })
  it('is there again when the place is opened again', async () => {
    await type('half a thought')
    expect(await read()).toBe('half a thought')
  })
  it('is not shown to another person in the same tab', async () => {
    await type('half a thought')
    as(2)
    expect(await read()).toBeNull()
  })
  it('is there for its person after another one was here', async () => {
    await type('half a thought')
    as(2)
    await type('something else')
    as(1)
    expect(await read()).toBe('half a thought')
  })
  it('is gone after its person signed out', async () => {
    await type('half a thought')
    forgetTyped(1)
    expect(await read()).toBeNull()
  })
  it('of another person stays when one signs out', async () => {
    await type('half a thought')
    forgetTyped(2)
    expect(await read()).toBe('half a thought')
  })
})

describe('a form that keeps what is typed', () => {
  const fresh = () => reactive({ name: '', password: '', days: 90 })
  beforeEach(() => {
    sessionStorage.clear()
    as(1)
  })
  const fill = async (with_: Partial<ReturnType<typeof fresh>>) => {
    const scope = effectScope()
    const form = fresh()
    const saved = scope.run(() => keepTyped('form', form, ['password']))!
    Object.assign(form, with_)
    await flushPromises()
    return { form, saved, scope }
  }
  it('begins with what was typed before', async () => {
    await fill({ name: 'Ferry log', days: 30 })
    expect((await fill({})).form).toMatchObject({ name: 'Ferry log', days: 30 })
  })
  it('never keeps a password', async () => {
    await fill({ name: 'Ferry log', password: 'quiet-harbour-12' })
    expect(JSON.stringify({ ...sessionStorage })).not.toContain('quiet-harbour-12')
  })
  it('begins anew once it was saved', async () => {
    const { form, saved } = await fill({ name: 'Ferry log' })
    saved()
    expect(form.name).toBe('')
  })
  it('keeps nothing once it was saved', async () => {
    const { saved } = await fill({ name: 'Ferry log' })
    saved()
    await flushPromises()
    expect((await fill({})).form.name).toBe('')
  })
  it('shows on what was saved where it stays open', async () => {
    const { form, saved } = await fill({ name: 'Ferry log' })
    saved(false)
    expect(form.name).toBe('Ferry log')
  })
})
