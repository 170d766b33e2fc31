import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'

export interface Column {
  key: string
  label: string
  width: number
  /** Takes what width is left. */
  grow?: boolean
  align?: 'right'
  /** Name of the sort on the server. */
  sort?: string
}

/** The columns of a table that are shown, with their widths: what a person chose is remembered under its name. */
export function useColumns(props: { name: string; columns: readonly Column[]; selectable?: boolean }) {
  const kept = useLocalStorage<{ widths: Record<string, number>; hidden: string[] }>(`widekeel.table.${props.name}`, {
    widths: {},
    hidden: [],
  })

  const shown = computed(() => props.columns.filter((c) => !kept.value.hidden.includes(c.key)))
  const template = computed(() =>
    [
      ...(props.selectable ? ['34px'] : []),
      ...shown.value.map((c) =>
        c.grow && !kept.value.widths[c.key] ? `minmax(${c.width}px, 1fr)` : `${kept.value.widths[c.key] ?? c.width}px`,
      ),
    ].join(' '),
  )
  function resize(column: Column, event: PointerEvent) {
    const start = event.clientX
    const cell = (event.target as HTMLElement).parentElement!
    const was = cell.offsetWidth
    const move = (e: PointerEvent) => (kept.value.widths[column.key] = Math.max(50, was + e.clientX - start))
    const up = () => {
      removeEventListener('pointermove', move)
      removeEventListener('pointerup', up)
    }
    addEventListener('pointermove', move)
    addEventListener('pointerup', up)
  }
  function toggle(key: string) {
    const hidden = kept.value.hidden
    kept.value.hidden = hidden.includes(key) ? hidden.filter((k) => k !== key) : [...hidden, key]
  }
  const reset = () => (kept.value = { widths: {}, hidden: [] })
  return { kept, shown, template, resize, toggle, reset }
}
