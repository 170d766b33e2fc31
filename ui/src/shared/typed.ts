import { useSessionStorage, type RemovableRef } from '@vueuse/core'
import { computed, watch } from 'vue'
import { typedBy } from './forget'
import { person } from './session'

const keyOf = (id: number | undefined, subject: string) => `${typedBy(id ?? 0)}${subject}`

/**
 * What somebody types and has not saved: kept in this tab under the person and the place, so that it survives a reload,
 * Esc, a session that ended and a server that does not answer. Another person in the same tab never sees it. Null is
 * nothing typed.
 * @param subject The place, such as `series.12`; never for passwords.
 */
export const useTyped = <T>(subject: string): RemovableRef<T | null> =>
  useSessionStorage<T | null>(keyOf(person.value?.id, subject), null, {
    serializer: { read: (t) => JSON.parse(t) as T | null, write: (v) => JSON.stringify(v) },
  })

/**
 * Keeps the fields of a form in the same way, from where they begin. Returns what is to be called once they were saved:
 * the form is then as it began, or stays as it is where it goes on to show what was saved.
 * @param leaveOut Fields that are never kept: passwords and other secrets, and what is no input.
 */
export function keepTyped<T extends object>(subject: string, form: T, leaveOut: readonly (keyof T)[] = []) {
  const kept = (of: T) =>
    Object.fromEntries(Object.entries(of).filter(([name]) => !leaveOut.includes(name as keyof T))) as Partial<T>
  const initial = JSON.stringify(kept(form))
  const written = useTyped<Partial<T>>(subject)
  if (written.value) Object.assign(form, written.value)
  watch(
    () => JSON.stringify(kept(form)),
    (now) => (written.value = now === initial ? null : (JSON.parse(now) as Partial<T>)),
  )
  return (again = true) => {
    if (again) Object.assign(form, JSON.parse(initial))
    written.value = null
  }
}

/** One text that is typed, kept in the same way; empty is nothing typed. */
export function useTypedText(subject: string) {
  const written = useTyped<string>(subject)
  return computed({ get: () => written.value ?? '', set: (text) => (written.value = text || null) })
}
