import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { disableAutoUnmount, enableAutoUnmount, flushPromises, mount } from '@vue/test-utils'
import { afterAll, afterEach, beforeEach, vi } from 'vitest'
import type { Component } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { api, type Schemas } from '@/shared/api/client'
import { session } from './session'

/** For tests: places with a server that answers what the test says, and remembers what it was asked. */
export interface Call {
  path: string
  params?: unknown
  body?: unknown
  headers?: Record<string, string>
}
let asked: Call[] = []
/** By method and path, such as `GET /api/blankets`; an Error is a refusal with that sentence, and with its name as the code. */
export const answers: Record<string, unknown> = {}

const answer = (method: string) => (path: string, init?: Omit<Call, 'path'>) => {
  asked.push({ path: `${method} ${path}`, params: init?.params, body: init?.body, headers: init?.headers })
  const data = answers[`${method} ${path}`]
  return Promise.resolve(
    data instanceof Error
      ? {
          error: { type: `urn:x:${data.name === 'Error' ? 'refused' : data.name}`, title: data.message },
          response: new Response(null, { status: 400 }),
        }
      : { data, response: new Response() },
  )
}

/** Person 1 is signed in with these rights, on 15 June 2026. Test files share their modules, so none mocks the session. */
export const signedIn = (...rights: Schemas['Right'][]) =>
  (session.value = {
    organisation: 'Tarnholm Ferries',
    today: '2026-06-15',
    fiscalYearEnd: '12-31',
    person: { id: 1, name: 'Ines Calloway', rights } as Partial<Schemas['SessionPerson']> as Schemas['SessionPerson'],
    token: 'a token',
    accounts: [],
    needsSetUp: false,
  })

export const tally = (items = 0): Schemas['Tally'] => ({ items, bytes: items * 1024 })

/** Consequences for forty items, all of which stay as they are but for what a test says. */
export const consequences = (
  figures: Partial<Schemas['ConsequenceFigures']> = {},
  more: Partial<Schemas['ConsequencesView']> = {},
): Schemas['ConsequencesView'] => ({
  figures: {
    inReach: tally(40),
    dueBefore: tally(),
    dueAfter: tally(),
    becomeDue: tally(),
    noLongerDue: tally(),
    sooner: tally(),
    later: tally(),
    newlyUnderRule: tally(),
    loseProtection: tally(),
    unchanged: tally(),
    heldBack: tally(),
    disposableSooner: tally(),
    disposableLater: tally(),
    endsOtherwise: tally(),
    byMonth: [],
    byContainer: [],
    ...figures,
  },
  containers: [],
  fingerprint: 'seen',
  untouchable: 0,
  authorities: [],
  secondPerson: null,
  proposalId: null,
  ...more,
})

/** To be called once in a test file: every test begins with a server that knows nothing. */
export function standIn() {
  beforeEach(() => {
    asked = []
    for (const key of Object.keys(answers)) delete answers[key]
    for (const method of ['GET', 'POST', 'PUT', 'DELETE'] as const)
      vi.spyOn(api, method).mockImplementation(answer(method) as never)
  })
}

/** To be called once in a test file: what a test put on the page goes with it. */
export function tidyUp() {
  enableAutoUnmount(afterEach)
  afterEach(() => document.body.replaceChildren())
  afterAll(disableAutoUnmount)
}

export const calls = (path: string) => asked.filter((c) => c.path === path)

export async function place(component: Component, props: Record<string, unknown> = {}, address = '/content') {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)*', component: { render: () => null } }],
  })
  await router.push(address)
  const wrapper = mount(component, {
    props,
    attachTo: document.body,
    global: {
      plugins: [
        router,
        [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
      ],
    },
  })
  await flushPromises()
  return wrapper
}

/** The last button of the page that says so: dialogs are put at its end. */
export const button = (text: string) =>
  [...document.body.querySelectorAll('button')].filter((b) => b.textContent?.includes(text)).at(-1)

export async function press(text: string) {
  const found = button(text)
  if (!found) throw new Error(`No button says “${text}”.`)
  found.click()
  await flushPromises()
}

export async function type(selector: string, text: string) {
  const field = document.body.querySelector<HTMLInputElement>(selector)!
  field.value = text
  field.dispatchEvent(new Event('input'))
  field.dispatchEvent(new Event('change'))
  await flushPromises()
}

/** What is typed and not saved at a place, whoever typed it. */
export const typedAt = (subject: string) =>
  sessionStorage.getItem(Object.keys(sessionStorage).find((k) => k.endsWith(`.${subject}`)) ?? '')
