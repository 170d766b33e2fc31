<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { bytes, count, plural } from '@/shared/format'
import FoundTable from './FoundTable.vue'

/** What a draft of an order would hold; each figure opens into its items. */
const { order, figures } = defineProps<{
  order: Schemas['OrderView']
  figures: Schemas['OrderConsequences'] | null
  /** The figures are being computed anew. */
  looking: boolean
  problem: string | null
}>()
const emit = defineEmits<{ look: [{ group: string; title: string; container?: number }] }>()
const lookIn = (f: Schemas['PlaceFigures']) =>
  emit('look', { group: 'found', container: f.id, title: `${plural(f.items, 'item')} found in ${f.name}` })
const parts = computed(() => {
  const f = figures
  if (!f) return []
  const all = [
    { group: 'found', count: f.found.items, label: `found, ${bytes(f.found.bytes)}`, tone: '' },
    { group: 'newly', count: f.newly.items, label: 'newly held', tone: 'plum' },
    { group: 'alsoHeld', count: f.alsoHeld, label: 'held by others already', tone: '' },
    { group: 'dueToday', count: f.dueToday, label: 'due today; they stay', tone: '' },
    { group: 'onDocket', count: f.onDocket, label: 'in batches; they drop out', tone: '' },
    { group: 'leaving', count: f.leaving.items, label: 'would leave', tone: f.leaving.items ? 'copper' : '' },
  ]
  return all.filter((p) => (p.group !== 'onDocket' || p.count) && (p.group !== 'leaving' || order.state === 'inForce'))
})
</script>

<template>
  <section class="consequences" aria-label="Consequences" :aria-busy="looking">
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div v-else-if="figures" class="figures">
      <div v-for="p in parts" :key="p.group">
        <strong :class="p.tone">{{ count(p.count) }}</strong><button
          v-if="p.count"
          class="link small"
          :data-group="p.group"
          @click="emit('look', { group: p.group, title: `${plural(p.count, 'item')}: ${p.label}` })"
        >
          {{ p.label }}</button
        ><span v-else class="small quiet">{{ p.label }}</span>
      </div>
    </div>
    <p v-if="figures?.remark" class="problem" role="status">{{ figures.remark }}</p>
    <details v-if="figures?.byContainer.length" class="small">
      <summary>By container ({{ figures.byContainer.length }})</summary>
      <FoundTable of="Container" :found="figures.byContainer" @look="lookIn" />
    </details>
  </section>
</template>

<style scoped>
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(120px, 1fr));
  border: 1px solid var(--line);
  border-radius: var(--radius);
}
.figures div {
  display: grid;
  gap: 2px;
  padding: 8px 12px;
  border-right: 1px solid var(--line);
}
.figures div:last-child {
  border-right: 0;
}
.figures strong {
  font: 600 20px/1.1 var(--serif);
}
.plum {
  color: var(--plum);
}
.copper {
  color: var(--copper);
}
.figures .link {
  justify-self: start;
  text-align: left;
}
details {
  padding-top: 6px;
}
summary {
  cursor: pointer;
  color: var(--ink-2);
}
p {
  margin: 0;
}
</style>
