import { onClickOutside, useEventListener } from '@vueuse/core'
import { nextTick, ref, watch, type Ref } from 'vue'

const focusable = 'input:not([disabled]), select, textarea, a[href], button:not([disabled]), [tabindex="0"]'

/**
 * A panel that a button unfolds, both within one element. Unfolded it takes the focus; Esc folds it and gives the focus
 * back to the button; a press outside folds it and leaves the focus where it was put.
 * @param root The element around both; the button is the first with `aria-expanded`, the panel the first with
 * `data-panel`.
 */
export function useFold(root: Readonly<Ref<HTMLElement | null>>, open: Ref<boolean> = ref(false)) {
  onClickOutside(root, () => (open.value = false))
  useEventListener(root, 'keydown', (e: KeyboardEvent) => {
    if (e.key !== 'Escape' || !open.value) return
    e.stopPropagation()
    open.value = false
    root.value?.querySelector<HTMLElement>('[aria-expanded]')?.focus()
  })
  watch(open, async (now) => {
    if (!now) return
    await nextTick()
    root.value?.querySelector<HTMLElement>('[data-panel]')?.querySelector<HTMLElement>(focusable)?.focus()
  })
  return open
}
