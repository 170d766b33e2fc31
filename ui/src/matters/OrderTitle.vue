<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { orderStateWords } from './words'

/** The line of an order, which opens it and closes it again. */
defineProps<{ order: Schemas['OrderView']; open: boolean }>()
const emit = defineEmits<{ toggle: [] }>()
</script>

<template>
  <button class="title" :aria-expanded="open" @click="emit('toggle')">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <path
        d="M2 1.500h8v4.500a4 4 0 0 1-8 0Z"
        :fill="order.state === 'inForce' ? 'currentColor' : 'none'"
        stroke="currentColor"
        stroke-width="1.300"
      />
    </svg>
    <strong>{{ order.number }}. {{ order.name }}</strong>
    <span class="small quiet"
      >{{ orderStateWords[order.state] }}<template v-if="order.inForceAt"> since {{ day(order.inForceAt) }}</template
      ><template v-if="order.releasedAt">, released {{ day(order.releasedAt) }}</template
      ><template v-if="order.applying"> · being applied …</template
      ><template v-if="order.draft && order.inForce"> · draft waits</template></span
    >
    <span class="num">{{
      order.held.items || order.state !== 'draft' ? `${plural(order.held.items, 'item')} held` : ''
    }}</span>
  </button>
</template>

<style scoped>
.title {
  display: flex;
  width: 100%;
  gap: 10px;
  align-items: baseline;
  text-align: left;
  padding: 9px 14px;
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
}
.title:hover {
  background: var(--sheet-2);
}
.title svg {
  color: var(--plum);
  flex: none;
  align-self: center;
}
.title .num {
  margin-left: auto;
  white-space: nowrap;
}
</style>
