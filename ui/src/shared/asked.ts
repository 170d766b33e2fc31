import { refDebounced } from '@vueuse/core'
import { computed, type Ref } from 'vue'

/**
 * What the figures of a draft are asked by: the draft as JSON, a moment after its last change.
 * @returns `asked`, and `behind` while the figures of what is written are not asked for yet: those on screen are of
 * something else then, and nothing takes effect by them.
 */
export function useAsked(draft: Readonly<Ref<unknown>>) {
  const now = computed(() => JSON.stringify(draft.value))
  const asked = refDebounced(now, 250)
  const behind = computed(() => asked.value !== now.value)
  return { asked, behind }
}
