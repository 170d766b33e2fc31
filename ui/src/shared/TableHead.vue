<script setup lang="ts">
import type { Column } from './columns'

/** The names of the columns, by which rows are sorted; their edges are drawn. */
const { sort } = defineProps<{
  columns: readonly Column[]
  /** Widths, as a grid's. */
  template: string
  sort?: string
  selectable?: boolean
  /** Something is marked. */
  checked: boolean
}>()
const emit = defineEmits<{ sort: [sort: string]; mark: []; resize: [column: Column, event: PointerEvent] }>()
function sortBy(column: Column) {
  if (!column.sort) return
  emit('sort', sort === column.sort ? `-${column.sort}` : column.sort)
}
const direction = (column: Column) =>
  sort === column.sort ? 'ascending' : sort === `-${column.sort}` ? 'descending' : undefined
</script>

<template>
  <div class="head row" role="row" :style="{ gridTemplateColumns: template }">
    <div v-if="selectable" role="columnheader">
      <input type="checkbox" aria-label="Mark all that are loaded" :checked="checked" @change="emit('mark')" />
    </div>
    <div
      v-for="column in columns"
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
      <span class="grip" aria-hidden="true" @pointerdown.prevent="emit('resize', column, $event)" />
    </div>
  </div>
</template>

<style scoped>
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
.head > div:first-child:has(input) {
  padding-left: 12px;
}
input[type='checkbox'] {
  margin: 0;
  vertical-align: middle;
  accent-color: var(--sea);
}
</style>
