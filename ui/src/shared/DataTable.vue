<script setup lang="ts" generic="Row extends { id: number }">
import { ref, useTemplateRef, watch } from 'vue'
import { useColumns, type Column as TableColumn } from './columns'
import { count, plural } from './format'
import { useLines } from './lines'
import MarkedBar from './MarkedBar.vue'
import TableFoot from './TableFoot.vue'
import TableHead from './TableHead.vue'
import { useTableKeys } from './tableKeys'

export type Column = TableColumn

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
const { kept, shown, template, resize, toggle, reset } = useColumns(props)
const { lines, virtual, visible, rowHeight } = useLines(props, scroller, () => emit('more'))

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
useTableKeys(scroller, {
  rows: () => props.rows.length,
  step,
  mark: () => mark(props.rows[at.value]),
  press: () => press(props.rows[at.value]),
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
    <MarkedBar
      v-if="selectable && (selected?.size || allSelected)"
      :marked="selected?.size ?? 0"
      :total="total"
      :all="!!allSelected"
      @all="emit('update:allSelected', true)"
      @none="(emit('update:selected', new Set()), emit('update:allSelected', false))"
      ><slot name="acts"
    /></MarkedBar>
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
      <TableHead
        :columns="shown"
        :template="template"
        :sort="sort"
        :selectable="selectable"
        :checked="allSelected || (selected?.size ?? 0) > 0"
        @sort="emit('update:sort', $event)"
        @mark="markAll"
        @resize="resize"
      />
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
    <TableFoot :columns="columns" :hidden="kept.hidden" @toggle="toggle" @reset="reset">
      <template #count
        >{{ plural(total, word)
        }}<template v-if="rows.length < total">, {{ count(rows.length) }} loaded</template></template
      >
      <template #tools><slot name="tools" /></template>
    </TableFoot>
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
input[type='checkbox'] {
  margin: 0;
  vertical-align: middle;
  accent-color: var(--sea);
}
</style>
