<script setup lang="ts">
import { count } from './format'

/** How many rows are marked, and what can be done with them. */
defineProps<{
  marked: number
  total: number
  /** All that match are meant, not only those loaded. */
  all: boolean
}>()
const emit = defineEmits<{ all: []; none: [] }>()
</script>

<template>
  <div class="bar" role="status">
    <strong>{{ all ? `All ${count(total)}` : count(marked) }} marked</strong>
    <button v-if="!all && total > marked" class="link" @click="emit('all')">Mark all {{ count(total) }}</button>
    <button class="link" @click="emit('none')">Unmark</button>
    <slot />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 6px 12px;
  background: var(--copper-wash);
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}
</style>
