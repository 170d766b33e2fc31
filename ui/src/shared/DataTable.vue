<script setup lang="ts" generic="Row extends { id: number }">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useFold } from './fold'
import { count, plural } from './format'

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

const props = defineProps<{
  /** Under which widths and choice of columns are remembered. */
  name: string
  label: string
  rows: readonly Row[]
  columns: readonly Column[]
  total: number
  /** Word for one row: `item`. */
  word: string
  loading?: boolean
  hasMore?: boolean
  sort?: string
  open?: number | null
  selectable?: boolean
  selected?: ReadonlySet<number>
  /** All that match are meant, not only those loaded. */
  allSelected?: boolean
  /** Rows of two lines. */
  tall?: boolean
  /** Where rows fall into groups: the heading that begins with this row, or null. */
  groupOf?: (row: Row, before: Row | undefined) => string | null
}>()
const emit = defineEmits<{
  open: [row: Row]
  more: []
  'update:sort': [sort: string]
  'update:selected': [ids: Set<number>]
  'update:allSelected': [all: boolean]
}>()

const scroller = useTemplateRef<HTMLElement>('scroller')
const at = ref(0)
const choosing = useFold(useTemplateRef<HTMLElement>('foot'))
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
const rowHeight = computed(() => {
  const base = Number.parseInt(getComputedStyle(document.documentElement).getPropertyValue('--row')) || 36
  return props.tall ? base + 8 : base
})

type Line = { kind: 'group'; text: string } | { kind: 'row'; row: Row; index: number }
const lines = computed<Line[]>(() => {
  const out: Line[] = []
  props.rows.forEach((row, index) => {
    const text = props.groupOf?.(row, props.rows[index - 1])
    if (text) out.push({ kind: 'group', text })
    out.push({ kind: 'row', row, index })
  })
  return out
})
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
    if (props.hasMore && !props.loading && last > lines.value.length - 30) emit('more')
  },
)

function go(to: number) {
  at.value = Math.max(0, Math.min(props.rows.length - 1, to))
  const line = lines.value.findIndex((l) => l.kind === 'row' && l.index === at.value)
  if (line >= 0) virtual.value.scrollToIndex(line)
}
/** To another row; while one is open beside the list, what is open goes along. */
function step(by: 1 | -1) {
  const before = at.value
  go(before + by)
  if (props.open != null && at.value !== before) press(props.rows[at.value])
}
function press(row: Row | undefined) {
  if (row) emit('open', row)
}
function mark(row: Row | undefined) {
  if (!row || !props.selectable) return
  const next = new Set(props.selected)
  if (!next.delete(row.id)) next.add(row.id)
  emit('update:allSelected', false)
  emit('update:selected', next)
}
function markAll() {
  const none = (props.selected?.size ?? 0) < props.rows.length
  emit('update:allSelected', false)
  emit('update:selected', none ? new Set(props.rows.map((r) => r.id)) : new Set())
}
function sortBy(column: Column) {
  if (!column.sort) return
  emit('update:sort', props.sort === column.sort ? `-${column.sort}` : column.sort)
}
const direction = (column: Column) =>
  props.sort === column.sort ? 'ascending' : props.sort === `-${column.sort}` ? 'descending' : undefined

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

useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  const typing = (e.target as HTMLElement).closest(
    'input, textarea, select, [contenteditable], .el-overlay, .el-popper',
  )
  if (typing || e.ctrlKey || e.metaKey || e.altKey || props.rows.length === 0) return
  const keys: Record<string, () => void> = {
    j: () => step(1),
    k: () => step(-1),
    ArrowDown: () => step(1),
    ArrowUp: () => step(-1),
    x: () => mark(props.rows[at.value]),
  }
  if (e.key.startsWith('Arrow') && e.target !== scroller.value) return
  if (e.key === 'Enter' && !(e.target as HTMLElement).closest('button, a'))
    keys.Enter = () => press(props.rows[at.value])
  if (keys[e.key]) {
    e.preventDefault()
    keys[e.key]!()
  }
})
// The open row comes into view when an address opened it; pressed rows are in view already.
watch(
  [() => props.open, () => props.rows.length > 0],
  ([id]) => {
    const index = props.rows.findIndex((r) => r.id === id)
    if (index >= 0) go(index)
  },
  { flush: 'post', immediate: true },
)
</script>

<template>
  <div class="table-wrap">
    <div v-if="selectable && (selected?.size || allSelected)" class="bar" role="status">
      <strong>{{ allSelected ? `All ${count(total)}` : count(selected!.size) }} marked</strong>
      <button v-if="!allSelected && total > selected!.size" class="link" @click="emit('update:allSelected', true)">
        Mark all {{ count(total) }}
      </button>
      <button class="link" @click="(emit('update:selected', new Set()), emit('update:allSelected', false))">
        Unmark
      </button>
      <slot name="acts" />
    </div>
    <div
      ref="scroller"
      class="scroller"
      tabindex="0"
      role="grid"
      :aria-label="label"
      :aria-rowcount="total"
      :aria-busy="loading"
      :aria-activedescendant="rows[at] ? `${name}-row-${rows[at]!.id}` : undefined"
    >
      <div class="head row" role="row" :style="{ gridTemplateColumns: template }">
        <div v-if="selectable" role="columnheader">
          <input
            type="checkbox"
            aria-label="Mark all that are loaded"
            :checked="allSelected || (selected?.size ?? 0) > 0"
            @change="markAll"
          />
        </div>
        <div
          v-for="column in shown"
          :key="column.key"
          role="columnheader"
          :class="{ num: column.align === 'right' }"
          :aria-sort="direction(column)"
        >
          <button v-if="column.sort" class="sort" @click="sortBy(column)">
            {{ column.label
            }}<span aria-hidden="true">{{
              direction(column) === 'ascending' ? ' ↑' : direction(column) === 'descending' ? ' ↓' : ''
            }}</span>
          </button>
          <template v-else>{{ column.label }}</template>
          <span class="grip" aria-hidden="true" @pointerdown.prevent="resize(column, $event)" />
        </div>
      </div>
      <div role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
        <template v-for="{ line, start, key } in visible" :key="key">
          <div v-if="line.kind === 'group'" class="group" role="row" :style="{ transform: `translateY(${start}px)` }">
            <span role="gridcell">{{ line.text }}</span>
          </div>
          <div
            v-else
            :id="`${name}-row-${line.row.id}`"
            class="row body"
            role="row"
            :class="{ at: line.index === at, open: line.row.id === open }"
            :aria-selected="line.row.id === open"
            :aria-rowindex="line.index + 2"
            :style="{ gridTemplateColumns: template, height: `${rowHeight}px`, transform: `translateY(${start}px)` }"
            @click="((at = line.index), press(line.row))"
          >
            <div v-if="selectable" class="tick" role="gridcell" @click.stop>
              <input
                type="checkbox"
                :aria-label="`Mark row ${line.index + 1}`"
                :checked="allSelected || selected?.has(line.row.id)"
                @change="mark(line.row)"
              />
            </div>
            <div v-for="column in shown" :key="column.key" role="gridcell" :class="{ num: column.align === 'right' }">
              <slot :name="column.key" :row="line.row" />
            </div>
          </div>
        </template>
      </div>
      <div v-if="rows.length === 0 && !loading" class="empty"><slot name="empty" /></div>
    </div>
    <div ref="foot" class="foot small quiet">
      <span
        >{{ plural(total, word)
        }}<template v-if="rows.length < total">, {{ count(rows.length) }} loaded</template></span
      >
      <span class="tools"
        ><slot name="tools" /><button class="link" :aria-expanded="choosing" @click="choosing = !choosing">
          Columns
        </button></span
      >
      <div v-if="choosing" class="chooser panel" data-panel>
        <label v-for="column in columns" :key="column.key"
          ><input type="checkbox" :checked="!kept.hidden.includes(column.key)" @change="toggle(column.key)" />
          {{ column.label }}</label
        >
        <button class="link" @click="kept = { widths: {}, hidden: [] }">As it was</button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.table-wrap {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
  position: relative;
}
.scroller {
  flex: 1;
  min-height: 120px;
  overflow: auto;
}
.row {
  display: grid;
  align-items: center;
  min-width: 100%;
  width: max-content;
}
.head {
  position: sticky;
  top: 0;
  z-index: 2;
  min-height: 32px;
  background: var(--sheet-2);
  border-bottom: 1px solid var(--line);
  font-size: 12px;
  font-weight: 600;
  color: var(--ink-2);
}
.head > div {
  position: relative;
  padding: 0 8px;
  white-space: nowrap;
}
.body > div {
  padding: 0 8px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 13.5px;
}
.body {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  border-bottom: 1px solid var(--line);
  cursor: pointer;
}
.body:hover {
  background: var(--sheet-2);
}
.body.at {
  box-shadow: inset 2px 0 0 var(--ink-3);
}
.body.open {
  background: var(--sea-wash);
  box-shadow: inset 3px 0 0 var(--sea);
}
.group {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  height: 28px;
  padding: 5px 8px;
  background: var(--sheet-2);
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
  font-weight: 600;
  color: var(--ink-2);
}
.sort {
  border: 0;
  background: none;
  padding: 0;
  color: inherit;
  font-weight: 600;
  cursor: pointer;
}
.grip {
  position: absolute;
  right: 0;
  top: 4px;
  bottom: 4px;
  width: 6px;
  cursor: col-resize;
  border-right: 1px solid transparent;
}
.head:hover .grip {
  border-right-color: var(--line-2);
}
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 6px 12px;
  background: var(--copper-wash);
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}
.foot {
  display: flex;
  justify-content: space-between;
  padding: 5px 12px;
  border-top: 1px solid var(--line);
  background: var(--sheet);
  position: relative;
}
.tools {
  display: flex;
  gap: 14px;
}
.chooser {
  position: absolute;
  right: 8px;
  bottom: 30px;
  z-index: 5;
  padding: 10px 14px;
  display: grid;
  gap: 6px;
  box-shadow: var(--shadow);
  color: var(--ink);
}
.empty {
  padding: 40px 24px;
  text-align: center;
  color: var(--ink-2);
}
.body > .tick {
  overflow: visible;
  text-overflow: clip;
  padding: 0 0 0 12px;
}
.head > div:first-child:has(input) {
  padding-left: 12px;
}
input[type='checkbox'] {
  margin: 0;
  vertical-align: middle;
  accent-color: var(--sea);
}
</style>
