<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { bytes, count, plural } from '@/shared/format'

/** What an order holds; each number opens into its items. */
defineProps<{ order: Schemas['OrderView'] }>()
const emit = defineEmits<{ look: [title: string, query: Record<string, boolean>] }>()
</script>

<template>
  <dl class="tally">
    <div>
      <dt>Held</dt>
      <dd>
        <button
          v-if="order.held.items"
          class="link"
          @click="emit('look', `${plural(order.held.items, 'item')} held by order ${order.number}`, {})"
        >
          {{ plural(order.held.items, 'item') }}</button><span v-else>nothing</span>, {{ bytes(order.held.bytes) }}
      </dd>
    </div>
    <div>
      <dt>In</dt>
      <dd>{{ plural(order.containers, 'container') }}</dd>
    </div>
    <div>
      <dt>Held by other orders too</dt>
      <dd>
        <button v-if="order.alsoHeld" class="link" @click="emit('look', 'Also held by other orders', { also: true })">
          {{ count(order.alsoHeld) }}</button><span v-else>none</span>
      </dd>
    </div>
    <div>
      <dt>Due today but for holds</dt>
      <dd>
        <button
          v-if="order.dueButFor"
          class="link"
          @click="emit('look', 'Would be due today but for holds', { due: true })"
        >
          {{ count(order.dueButFor) }}</button><span v-else>none</span>
      </dd>
    </div>
    <div v-if="order.pinned">
      <dt>Pinned by hand</dt>
      <dd>
        <button class="link" @click="emit('look', 'Pinned by hand', { pinned: true })">
          {{ count(order.pinned) }}
        </button>
      </dd>
    </div>
    <div v-if="order.releasing">
      <dt>Released, delay running</dt>
      <dd>
        <button
          class="link"
          @click="emit('look', 'Released, and protected until the delay has passed', { releasing: true })"
        >
          {{ count(order.releasing) }}
        </button>
      </dd>
    </div>
  </dl>
</template>

<style scoped>
.tally {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 26px;
  margin: 0;
  font-size: 13.5px;
}
.tally dt {
  color: var(--ink-3);
  font-size: 12px;
}
.tally dd {
  margin: 0;
}
</style>
