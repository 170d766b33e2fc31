import type { QueryKey } from '@tanstack/vue-query'
import { computed, shallowRef, type Component, type Ref } from 'vue'
import type { RouteRecordRaw } from 'vue-router'

/** For whom something shows: asked anew whenever what it looks at changes. */
interface Shown {
  show?: () => boolean
  /** The same where an answer of the server decides; called once, where a component is set up. */
  useShow?: () => Readonly<Ref<boolean>>
}

/** A number that waits somewhere; called once, where a component is set up. */
interface Badge {
  useBadge?: () => Readonly<Ref<number>>
}

/** A place of the masthead. Its address is that of its first tab that shows, or its own. */
export interface Place extends Shown, Badge {
  key: string
  label: string
  /** Where it stands, from the left. */
  order: number
  to: string
  /** Reached from the person's menu instead of standing in the masthead. */
  inMenu?: boolean
}

/** A tab of a place; parts add tabs to places of other parts too. */
export interface Tab extends Shown, Badge {
  place: string
  to: string
  label: string
  order: number
  /** Whether an address belongs to it; without one, every address that begins with its own. */
  covers?: (path: string) => boolean
}

/** Something that the search field can do. */
export interface Command extends Shown {
  title: string
  note: string
  /** Where it leads, or what it does. */
  to?: string
  run?: () => unknown
}

/** What can be done with items that are marked in a list. */
export interface ItemAct extends Shown {
  key: string
  order: number
  label: string
  /** The one that most people come for. */
  primary?: boolean
  /** A panel with the props `selection`, `items` and `suggested`, and the events `close` and `done`. */
  component: Component
}

/**
 * What a part of the product brings to the interface: one file, `part.ts`, in its folder. Nothing else names it.
 *
 * A change is a word for what an act changed, such as `items` or `schedule`. Acts and jobs name their changes; each
 * part says which of its own answers a change makes stale. `*` stands for every change.
 */
export interface Part {
  name: string
  routes?: RouteRecordRaw[]
  /** Former addresses, and where they lead now. */
  moved?: Record<string, string>
  places?: Place[]
  tabs?: Tab[]
  commands?: Command[]
  stale?: Record<string, QueryKey[]>
  /** Shown at the right of the masthead. */
  tools?: (Shown & { order: number; component: Component })[]
  /** Duties of these kinds are settled on Today itself, in a section of their own. */
  onToday?: { kind: string; component: Component }[]
  itemActs?: ItemAct[]
  /** Sections of one's own profile. */
  profile?: { order: number; component: Component }[]
}

const all = shallowRef<readonly Part[]>([])

/** Called once, before anything is shown; tests bring their own. */
export function useParts(parts: readonly Part[]) {
  all.value = parts
}

export const parts = () => all.value

/** Of one kind, from all parts, by their order. */
export const gathered = <T extends { order: number }>(of: (part: Part) => readonly T[] | undefined): T[] =>
  all.value.flatMap((p) => of(p) ?? []).sort((a, b) => a.order - b.order)

/** The answers that these changes make stale. */
export const staleBy = (changes: readonly string[]): QueryKey[] =>
  all.value.flatMap((p) => [...new Set([...changes, '*'])].flatMap((c) => p.stale?.[c] ?? []))

/** Those of a list that show, now and whenever that changes. To be called where a component is set up. */
export function useShown<T extends Shown>(list: readonly T[]) {
  const asked = list.map((item) => ({ item, shown: item.useShow?.() }))
  return computed(() =>
    asked.filter(({ item, shown }) => (item.show?.() ?? true) && (shown?.value ?? true)).map(({ item }) => item),
  )
}

/** The numbers that wait at places or tabs, by their address. To be called where a component is set up. */
export function useBadges(list: readonly (Badge & { to: string })[]) {
  const badges = new Map(list.flatMap((b) => (b.useBadge ? [[b.to, b.useBadge()] as const] : [])))
  return (to: string) => badges.get(to)?.value || undefined
}

/** The tabs of a place, in their order. */
export const tabsOf = (place: string) => gathered((p) => p.tabs).filter((t) => t.place === place)

/** Whether an address belongs to a tab. */
export const isAt = (tab: Tab, path: string) => tab.covers?.(path) ?? (path === tab.to || path.startsWith(`${tab.to}/`))
