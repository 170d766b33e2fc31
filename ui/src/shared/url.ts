import { computed, type WritableComputedRef } from 'vue'
import { useRoute, useRouter, type LocationQueryRaw } from 'vue-router'

/** State that lives in the address, so that a copied address shows the same. */
export function useUrl() {
  const route = useRoute()
  const router = useRouter()

  function put(changes: Record<string, string | string[] | null | undefined>, push = false) {
    const query: LocationQueryRaw = { ...route.query }
    for (const [name, value] of Object.entries(changes)) {
      if (value === null || value === undefined || value === '' || (Array.isArray(value) && value.length === 0))
        delete query[name]
      else query[name] = value
    }
    return push ? router.push({ query }) : router.replace({ query })
  }

  const list = (name: string): string[] => {
    const value = route.query[name]
    return (Array.isArray(value) ? value : [value]).filter((v): v is string => !!v)
  }
  const text = (name: string): WritableComputedRef<string> =>
    computed({ get: () => list(name)[0] ?? '', set: (value) => void put({ [name]: value }) })
  const number = (name: string): WritableComputedRef<number | null> =>
    computed({
      get: () => (list(name)[0] ? Number(list(name)[0]) : null),
      // Opening is a step of history; going on to another while one is open is not.
      set: (value) => void put({ [name]: value === null ? null : String(value) }, value !== null && !list(name)[0]),
    })

  return { route, router, put, list, text, number }
}
