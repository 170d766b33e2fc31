import { hashKey } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { createMemoryHistory } from 'vue-router'
import { defineComponent, h } from 'vue'
import { session } from '@/shared/session'
import { gathered, staleBy, tabsOf, useParts, useShown, type Part } from '@/shared/parts'
import { allParts } from './parts'
import { makeRouter } from './router'

const toy: Part = {
  name: 'toy',
  routes: [{ path: '/toy', component: { render: () => null }, meta: { title: 'Toy', place: 'toy' } }],
  moved: { '/old-toy': '/toy' },
  places: [{ key: 'toy', label: 'Toy', order: 25, to: '/toy' }],
  tabs: [{ place: 'toy', to: '/toy', label: 'Wound up', order: 10 }],
  stale: { winding: [['spring']], '*': [['dust']] },
}
afterEach(() => useParts([]))

describe('a part', () => {
  it('that no list names stands in the masthead at its place', () => {
    useParts([...allParts, toy])
    const labels = gathered((p) => p.places).map((p) => p.label)
    expect(labels.indexOf('Toy')).toBe(labels.indexOf('Content') + 1)
  })
  it('brings its tabs', () => {
    useParts([...allParts, toy])
    expect(tabsOf('toy').map((t) => t.label)).toEqual(['Wound up'])
  })
  it('brings its address', async () => {
    const router = makeRouter([toy], createMemoryHistory())
    await router.push('/toy')
    expect(router.currentRoute.value.meta.title).toBe('Toy')
  })
  it('leads a former address to the new one, with its question', async () => {
    const router = makeRouter([toy], createMemoryHistory())
    await router.push('/old-toy?spring=2')
    expect(router.currentRoute.value.fullPath).toBe('/toy?spring=2')
  })
  it('says what a change makes stale, and what every change does', () => {
    useParts([toy])
    expect(staleBy(['winding'])).toEqual([['spring'], ['dust']])
  })
  it('is shown to those that it names only', () => {
    useParts([{ ...toy, places: [{ ...toy.places![0]!, show: () => false }] }])
    let shown: unknown[] = []
    mount(
      defineComponent(() => {
        shown = useShown(gathered((p) => p.places)).value
        return () => h('p')
      }),
    )
    expect(shown).toEqual([])
  })
})

describe('the parts together', () => {
  const sources = import.meta.glob<string>('../*/*.vue', { eager: true, query: '?raw', import: 'default' })
  const folders = [...new Set(Object.keys(sources).map((path) => path.split('/').at(-2)!))]
  it('have every folder but the shell and what is shared', () => {
    expect(allParts.map((p) => p.name).sort()).toEqual(
      folders.filter((n) => !['.', 'app', 'shared'].includes(n)).sort(),
    )
  })
  it('know every change that an act names', () => {
    const named = Object.values(sources).flatMap((s) =>
      [...s.matchAll(/useAct\(\[([^\]]*)\]/g)].flatMap((m) => m[1]!.match(/[\w-]+/g) ?? []),
    )
    const known = new Set(allParts.flatMap((p) => Object.keys(p.stale ?? {})))
    expect([...new Set(named)].filter((c) => !known.has(c))).toEqual([])
  })
  it('have at most seven places in the masthead, even for who has every right', () => {
    useParts(allParts)
    const every = { includes: () => true }
    session.value = { person: { rights: every } } as unknown as typeof session.value
    const places = gathered((p) => p.places).filter((p) => !p.inMenu && (p.show?.() ?? true))
    session.value = null
    expect(places.length).toBeLessThanOrEqual(7)
  })
  it('have at most seven tabs at a place', () => {
    useParts(allParts)
    for (const place of gathered((p) => p.places)) expect(tabsOf(place.key).length).toBeLessThanOrEqual(7)
  })
  it('make no answer stale twice by one change', () => {
    useParts(allParts)
    for (const change of new Set(allParts.flatMap((p) => Object.keys(p.stale ?? {})))) {
      const keys = staleBy([change]).map((k) => hashKey(k))
      expect(keys).toEqual([...new Set(keys)])
    }
  })
})
