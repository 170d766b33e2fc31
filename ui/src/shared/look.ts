import { useLocalStorage } from '@vueuse/core'
import { watch } from 'vue'

export type Look = 'light' | 'night' | 'contrast'

export const look = useLocalStorage<Look>(
  'widekeel.look',
  matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'light',
)
export const density = useLocalStorage<'roomy' | 'dense'>('widekeel.density', 'roomy')

/** Writes look and density to the page's root, now and whenever they change. */
export function applyLook() {
  watch(
    [look, density],
    () => {
      document.documentElement.dataset.look = look.value
      document.documentElement.dataset.density = density.value
    },
    { immediate: true },
  )
}
