import type { RemovableRef } from '@vueuse/core'
import { watch } from 'vue'
import { useTyped } from './typed'
import { useUrl } from './url'

/**
 * What somebody types and has not saved, with what differs from the saved state in the address too: whoever opens a
 * copied address sees this what-if and its consequences. Nothing is saved by it. What the address says wins over what
 * was written here before.
 */
export function useWhatIf<T extends object>(subject: string, saved: () => T | null): RemovableRef<T | null> {
  const { list, put } = useUrl()
  const written = useTyped<T>(subject)
  const mark = `${subject}:`
  const told = () => list('whatif').find((w) => w.startsWith(mark)) ?? null

  watch(
    [told, () => saved() !== null],
    ([text, loaded]) => {
      const parts = text && loaded ? partsOf(text.slice(mark.length), saved()!) : null
      if (parts) written.value = { ...saved()!, ...parts }
    },
    { immediate: true },
  )

  watch(
    [written, () => saved() !== null],
    ([now, loaded]) => {
      if (!loaded) return
      const base = saved()!
      const parts = now
        ? Object.fromEntries(
            Object.entries(now).filter(
              ([key, value]) => JSON.stringify(value) !== JSON.stringify(base[key as keyof T]),
            ),
          )
        : {}
      const text = Object.keys(parts).length ? mark + JSON.stringify(parts) : null
      if (text !== told())
        void put({ whatif: [...list('whatif').filter((w) => !w.startsWith(mark)), ...(text ? [text] : [])] })
    },
    { immediate: true },
  )

  return written
}

/**
 * Parts of a definition as an address tells them; null for what cannot be read. An unknown part, or one of another
 * shape, is left out.
 */
function partsOf<T extends object>(text: string, like: T): Partial<T> | null {
  try {
    const shape = (value: unknown) => (Array.isArray(value) ? 'list' : typeof value)
    return Object.fromEntries(
      Object.entries(JSON.parse(text) as object).filter(
        ([key, value]) =>
          key in like &&
          (value === null || like[key as keyof T] === null || shape(value) === shape(like[key as keyof T])),
      ),
    ) as Partial<T>
  } catch {
    return null
  }
}
