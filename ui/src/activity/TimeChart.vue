<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { count, moment, plural } from '@/shared/format'

/** Events over time as columns. Dragging across some of them chooses their span. */
const { histogram } = defineProps<{ histogram: Schemas['TimeHistogram'] }>()
const emit = defineEmits<{ span: [from: string, before: string] }>()

const all = (b: Schemas['TimeBucket']) => b.success + b.failure + b.other
const most = computed(() => Math.max(1, ...histogram.buckets.map(all)))
const from = ref<number | null>(null)
const to = ref<number | null>(null)
const lies = (i: number) =>
  from.value !== null && i >= Math.min(from.value, to.value!) && i <= Math.max(from.value, to.value!)
const label = (b: Schemas['TimeBucket']) =>
  `${moment(b.start)}: ${plural(all(b), 'event')}${b.failure ? `, ${count(b.failure)} failed` : ''}`

function begin(i: number) {
  from.value = to.value = i
  addEventListener('pointerup', end, { once: true })
}
function over(i: number) {
  if (from.value !== null) to.value = i
}
function end() {
  const [a, b] = [Math.min(from.value!, to.value!), Math.max(from.value!, to.value!)]
  from.value = to.value = null
  const start = histogram.buckets[a]
  const last = histogram.buckets[b]
  if (start && last)
    emit('span', start.start, new Date(new Date(last.start).getTime() + histogram.bucketMilliseconds).toISOString())
}
</script>

<template>
  <figure class="time" :aria-label="`Events over time, at most ${count(most)} in a column`">
    <div class="columns">
      <div
        v-for="(b, i) in histogram.buckets"
        :key="b.start"
        class="column"
        :class="{ lies: lies(i) }"
        :title="label(b)"
        @pointerdown.prevent="begin(i)"
        @pointerenter="over(i)"
      >
        <span class="bar other" :style="{ height: `${((b.success + b.other) / most) * 100}%` }" />
        <span class="bar failure" :style="{ height: `${(b.failure / most) * 100}%` }" />
      </div>
    </div>
    <figcaption v-if="histogram.buckets.length" class="small quiet">
      <span>{{ moment(histogram.buckets[0]!.start) }}</span>
      <span>drag across columns to choose their time</span>
      <span>{{ moment(histogram.buckets.at(-1)!.start) }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.time {
  margin: 0;
  padding: 8px 16px 6px;
  border-bottom: 1px solid var(--line);
  user-select: none;
}
.columns {
  display: flex;
  height: 56px;
  align-items: stretch;
  border-bottom: 1px solid var(--line-2);
}
.column {
  flex: 1;
  min-width: 2px;
  display: flex;
  flex-direction: column-reverse;
  padding-right: 1px;
  cursor: col-resize;
}
.column:hover,
.column.lies {
  background: var(--sea-wash);
}
.bar {
  display: block;
  flex: none;
}
.other {
  background: var(--sea);
}
.failure {
  background: var(--copper);
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 11.5px;
  padding-top: 3px;
}
</style>
