<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'

/** The tags that one document bears, each put on and taken off by a press. */
const { tags, codes, document, name } = defineProps<{
  tags: readonly Schemas['TagView'][]
  /** Of the item. */
  codes: readonly Schemas['CodeView'][]
  /** Of the family, from 1; 0 for all of it. */
  document: number
  /** Of the document, for who cannot see where the buttons stand. */
  name: string
  may: boolean
  busy: boolean
}>()
const emit = defineEmits<{ code: [tag: number, on: boolean] }>()
const own = computed(() => new Map(codes.filter((c) => c.document === document).map((c) => [c.tagId, c])))
const words = (c: Schemas['CodeView'] | undefined) =>
  c ? `${c.by}, ${day(c.at.slice(0, 10))}${c.note ? `: ${c.note}` : ''}` : undefined
</script>

<template>
  <span class="codes" role="group" :aria-label="`Tags of ${name}`">
    <template v-for="(t, n) in tags" :key="t.id"
      ><button
        v-if="may"
        class="chip"
        :class="{ withholds: t.withholds }"
        :aria-pressed="own.has(t.id)"
        :title="words(own.get(t.id)) ?? (n < 9 ? `key ${n + 1}` : undefined)"
        :disabled="busy"
        @click="emit('code', t.id, !own.has(t.id))"
      >
        {{ t.name }}</button
      ><span v-else-if="own.has(t.id)" class="chip on" :title="words(own.get(t.id))">{{ t.name }}</span></template
    >
  </span>
</template>

<style scoped>
.codes {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 4px 0;
}
.chip {
  height: 22px;
  padding: 0 9px;
  font-size: 12px;
}
.withholds[aria-pressed='true'] {
  background: var(--copper);
  border-color: var(--copper);
  color: var(--sheet);
}
</style>
