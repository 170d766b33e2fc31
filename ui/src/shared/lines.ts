import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, watch, type Ref } from 'vue'

/** A line of a table: a heading, or a row with its place among the rows. */
export type Line<Row> = { kind: 'group'; text: string } | { kind: 'row'; row: Row; index: number }

/** @param groupOf Where rows fall into groups: the heading that begins with a row, or null. */
export function linesOf<Row>(
  rows: readonly Row[],
  groupOf?: (row: Row, before: Row | undefined) => string | null,
): Line<Row>[] {
  const out: Line<Row>[] = []
  rows.forEach((row, index) => {
    const text = groupOf?.(row, rows[index - 1])
    if (text) out.push({ kind: 'group', text })
    out.push({ kind: 'row', row, index })
  })
  return out
}

/** The lines of a table of which only those in sight are drawn. */
export function useLines<Row>(
  props: {
    rows: readonly Row[]
    groupOf?: (row: Row, before: Row | undefined) => string | null
    tall?: boolean
    hasMore?: boolean
    loading?: boolean
  },
  scroller: Readonly<Ref<HTMLElement | null>>,
  more: () => void,
) {
  const rowHeight = computed(() => {
    const base = Number.parseInt(getComputedStyle(document.documentElement).getPropertyValue('--row')) || 36
    return props.tall ? base + 8 : base
  })

  const lines = computed(() => linesOf(props.rows, props.groupOf))
  const virtual = useVirtualizer(
    computed(() => ({
      count: lines.value.length,
      getScrollElement: () => scroller.value,
      estimateSize: (i: number) => (lines.value[i]?.kind === 'group' ? 28 : rowHeight.value),
      overscan: 12,
    })),
  )
  /** The lines in sight. A list that has just become shorter may still be asked for lines that it no longer has. */
  const visible = computed(() =>
    virtual.value
      .getVirtualItems()
      .flatMap((v) => (lines.value[v.index] ? [{ key: v.index, start: v.start, line: lines.value[v.index]! }] : [])),
  )
  watch([rowHeight, lines], () => virtual.value.measure())

  /** Asks for the next page before the end comes into view. */
  watch(
    () => virtual.value.getVirtualItems().at(-1)?.index ?? 0,
    (last) => {
      if (props.hasMore && !props.loading && last > lines.value.length - 30) more()
    },
  )
  return { lines, virtual, visible, rowHeight }
}
