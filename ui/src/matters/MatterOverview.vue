<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { bytes, count } from '@/shared/format'
import { today } from '@/shared/session'
import CustodiansTab from './CustodiansTab.vue'
import MatterTideline from './MatterTideline.vue'

/** A matter at a glance; each figure and each mark opens the part that it is of. */
const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const emit = defineEmits<{ open: [tab: string] }>()
const places: Record<string, string> = {
  order: 'orders',
  release: 'orders',
  notice: 'notices',
  sweep: 'sweeps',
  bundle: 'bundles',
  opened: 'members',
  closed: '',
}
const orders = computed(() => matter.orders.filter((o) => o.state === 'inForce'))
</script>

<template>
  <p v-if="matter.description" class="description">{{ matter.description }}</p>
  <MatterTideline :marks="matter.marks" :today="today" @open="emit('open', places[$event.kind] ?? '')" />
  <ul v-if="matter.warnings.length" class="warnings">
    <li v-for="w in matter.warnings" :key="w">
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <path d="M6 1 11 6 6 11 1 6Z" fill="none" stroke="currentColor" stroke-width="1.600" /></svg
      >{{ w }}
    </li>
  </ul>
  <div class="figures">
    <button class="figure" @click="emit('open', 'orders')">
      <strong class="plum">{{ count(matter.held) }}</strong><span class="small quiet"
        >{{ matter.held === 1 ? 'item held' : 'items held' }}, {{ bytes(matter.heldBytes) }}</span
      >
    </button>
    <button class="figure" @click="emit('open', 'orders')">
      <strong>{{ orders.length }}</strong><span class="small quiet"
        >{{ orders.length === 1 ? 'order' : 'orders' }} in force</span
      >
    </button>
    <button class="figure" @click="emit('open', 'custodians')">
      <strong>{{ matter.custodians.filter((c) => c.acknowledgedAt).length }} of {{ matter.custodians.length }}</strong
      ><span class="small quiet">custodians have acknowledged</span>
    </button>
    <button class="figure" @click="emit('open', 'bundles')">
      <strong>{{ count(matter.bundles.reduce((n, b) => n + b.documents, 0)) }}</strong><span class="small quiet"
        >documents handed over</span
      >
    </button>
  </div>
  <CustodiansTab :matter="matter" brief />
</template>

<style scoped>
.description {
  margin: 0;
  max-width: 70ch;
}
.warnings {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
  color: var(--copper);
}
.warnings li {
  display: flex;
  gap: 9px;
  align-items: baseline;
}
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  border: 1px solid var(--line);
  border-radius: var(--radius);
}
.figure {
  display: grid;
  gap: 2px;
  justify-items: start;
  text-align: left;
  padding: 10px 14px;
  background: none;
  border: 0;
  border-right: 1px solid var(--line);
  color: var(--ink);
  cursor: pointer;
}
.figure:hover {
  background: var(--sheet-2);
}
.figure:last-child {
  border-right: 0;
}
.figure strong {
  font: 600 22px/1.1 var(--serif);
}
.plum {
  color: var(--plum);
}
</style>
