<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Column } from './columns'
import { useFold } from './fold'

/** How many rows there are, and the choice of columns. */
defineProps<{ columns: readonly Column[]; hidden: readonly string[] }>()
const emit = defineEmits<{ toggle: [key: string]; reset: [] }>()
const choosing = useFold(useTemplateRef<HTMLElement>('foot'))
</script>

<template>
  <div ref="foot" class="foot small quiet">
    <span><slot name="count" /></span>
    <span class="tools"
      ><slot name="tools" /><button class="link" :aria-expanded="choosing" @click="choosing = !choosing">
        Columns
      </button></span
    >
    <div v-if="choosing" class="chooser panel" data-panel>
      <label v-for="column in columns" :key="column.key"
        ><input type="checkbox" :checked="!hidden.includes(column.key)" @change="emit('toggle', column.key)" />
        {{ column.label }}</label
      >
      <button class="link" @click="emit('reset')">As it was</button>
    </div>
  </div>
</template>

<style scoped>
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
input[type='checkbox'] {
  margin: 0;
  vertical-align: middle;
  accent-color: var(--sea);
}
</style>
