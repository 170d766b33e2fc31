<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'

type Near = Schemas['QueryFormNear']
/** A row of a query's form: words near each other. */
const { near } = defineProps<{
  /** From 1, for its labels. */
  row: number
  near: Near
}>()
const emit = defineEmits<{ change: [Near] }>()
const units = { word: 'words', sentence: 'sentences', paragraph: 'paragraphs', element: 'elements' } as const
const put = (part: Partial<Near>) => emit('change', { ...near, ...part })
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <input
    class="box term"
    :aria-label="`Row ${row}: first words`"
    :value="near.first"
    @change="put({ first: value($event) })"
  />
  <span class="small">{{ near.ordered ? 'before' : 'near' }}</span>
  <input
    class="box term"
    :aria-label="`Row ${row}: second words`"
    :value="near.second"
    @change="put({ second: value($event) })"
  />
  <span class="small">at most</span
  ><input
    class="box number"
    type="number"
    min="0"
    max="1000"
    :aria-label="`Row ${row}: distance`"
    :value="near.distance"
    @change="put({ distance: Math.max(0, +value($event)) })"
  />
  <select
    class="box"
    :aria-label="`Row ${row}: unit`"
    :value="near.unit"
    @change="put({ unit: value($event) as Near['unit'] })"
  >
    <option v-for="(words, u) in units" :key="u" :value="u">{{ words }} apart</option>
  </select>
  <label class="small stem"
    ><input
      type="checkbox"
      :checked="near.ordered"
      @change="put({ ordered: ($event.target as HTMLInputElement).checked })"
    />
    in this order</label
  >
</template>
