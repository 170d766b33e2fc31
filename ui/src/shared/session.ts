import { computed, ref } from 'vue'
import { forgetTyped } from './forget'
import { api, take, useToken, whenSignedOut, type Schemas } from '@/shared/api/client'

export const session = ref<Schemas['SessionView'] | null>(null)
export const person = computed(() => session.value?.person ?? null)
export const today = computed(() => session.value?.today ?? '2000-01-01')
export const may = (right: Schemas['Right']) => person.value?.rights.includes(right) ?? false

function begin(view: Schemas['SessionView']) {
  session.value = view
  useToken(view.token)
}

export async function loadSession() {
  begin(await take(api.GET('/api/session')))
}

/** @param code A one-time code or a recovery code, where the server asked for one. */
export async function signIn(mail: string, password: string, code?: string) {
  begin(await take(api.POST('/api/session', { body: { mail, password, code } })))
}

/** Ends the sessions elsewhere; this one goes on. */
export async function choosePassword(current: string, password: string) {
  begin(await take(api.POST('/api/session/password', { body: { current, password } })))
}

export async function signOut() {
  const left = person.value?.id
  await take(api.DELETE('/api/session'))
  if (left) forgetTyped(left)
  await loadSession()
}

whenSignedOut(() => {
  if (person.value) void loadSession()
})
