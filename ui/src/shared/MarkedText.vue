<script setup lang="ts">
import { computed } from 'vue'

export interface Span {
  start: number
  length: number
}
export interface Find extends Span {
  kind: string
  /** What it is, for those who point at it. */
  title: string
}

const {
  text,
  marks = [],
  finds = [],
} = defineProps<{ text: string; marks?: readonly Span[]; finds?: readonly Find[] }>()

/** The text cut where a mark or a find begins or ends. */
const parts = computed(() => {
  const cuts = [...new Set([0, text.length, ...[...marks, ...finds].flatMap((s) => [s.start, s.start + s.length])])]
    .filter((c) => c >= 0 && c <= text.length)
    .sort((a, b) => a - b)
  const sorted = [...marks].sort((a, b) => a.start - b.start)
  let mark = 0
  return cuts.slice(0, -1).map((from, i) => {
    while (mark < sorted.length && sorted[mark]!.start + sorted[mark]!.length <= from) mark++
    const marked = mark < sorted.length && sorted[mark]!.start <= from
    return {
      text: text.slice(from, cuts[i + 1]),
      marked,
      find: finds.find((f) => f.start <= from && from < f.start + f.length),
    }
  })
})
</script>

<template>
  <template v-for="(part, i) in parts" :key="i"
    ><mark v-if="part.marked" :class="{ find: part.find }" :title="part.find?.title">{{ part.text }}</mark
    ><span v-else-if="part.find" class="find" :data-kind="part.find.kind" :title="part.find.title">{{ part.text }}</span
    ><template v-else>{{ part.text }}</template></template
  >
</template>

<style scoped>
mark {
  background: var(--mark);
  color: inherit;
  border-radius: 2px;
}
.find {
  border-bottom: 2px solid var(--copper);
  background: var(--copper-wash);
}
</style>
