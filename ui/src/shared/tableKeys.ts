import { useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'

/**
 * The keys of a table: `j` and `k` anywhere on the page, the arrows within the table, `x` marks, Enter opens. While
 * somebody types, none of them counts.
 */
export function useTableKeys(
  scroller: Readonly<Ref<HTMLElement | null>>,
  table: { rows: () => number; step: (by: 1 | -1) => void; mark: () => void; press: () => void },
) {
  useEventListener(document, 'keydown', (e: KeyboardEvent) => {
    const typing = (e.target as HTMLElement).closest(
      'input, textarea, select, [contenteditable], .el-overlay, .el-popper',
    )
    if (typing || e.ctrlKey || e.metaKey || e.altKey || table.rows() === 0) return
    const keys: Record<string, () => void> = {
      j: () => table.step(1),
      k: () => table.step(-1),
      ArrowDown: () => table.step(1),
      ArrowUp: () => table.step(-1),
      x: table.mark,
    }
    if (e.key.startsWith('Arrow') && e.target !== scroller.value) return
    if (e.key === 'Enter' && !(e.target as HTMLElement).closest('button, a')) keys.Enter = table.press
    if (keys[e.key]) {
      e.preventDefault()
      keys[e.key]!()
    }
  })
}
