<script setup lang="ts">
import { count, monthWords, plural } from '@/shared/format'
import type { Entry } from './due'
import { grace } from './grace'

/** A line of what is due. */
defineProps<{
  entry: Entry
  /** It stands beneath its series. */
  within: boolean
  open: boolean
  /** It has months that can be unfolded. */
  folds: boolean
  unfolded: boolean
}>()
const emit = defineEmits<{ open: []; fold: [] }>()
</script>

<template>
  <div class="due-row" :class="{ within, folds }">
    <button class="entry" :class="{ open }" :aria-current="open" @click="emit('open')">
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <path
          d="M6 1 11 6 6 11 1 6Z"
          :fill="within ? 'none' : 'var(--copper)'"
          stroke="var(--copper)"
          stroke-width="1.500"
        />
      </svg>
      <span v-if="within && entry.month" class="what"
        ><span>{{ monthWords(entry.month.month) }}</span
        ><small class="quiet">{{ grace(entry.month.graceEnds) }}</small></span
      >
      <span v-else class="what"
        ><strong>{{ entry.group.series.title }}</strong
        ><small class="quiet"
          >{{ entry.group.series.code }} ·
          {{ entry.group.stages.length ? grace((entry.month ?? entry.group).graceEnds) : 'no sign-off' }}</small
        ></span
      >
      <span class="num">{{ count((entry.month ?? entry.group).items) }}</span>
    </button>
    <button
      v-if="folds"
      class="fold"
      :aria-expanded="unfolded"
      :aria-label="`Months of ${entry.group.series.title}`"
      :title="plural(entry.group.months.length, 'month')"
      @click="emit('fold')"
    >
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <path
          :d="unfolded ? 'M2 8 6 4 10 8' : 'M2 4 6 8 10 4'"
          fill="none"
          stroke="currentColor"
          stroke-width="1.600"
        />
      </svg>
    </button>
  </div>
</template>

<style scoped>
.due-row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  position: relative;
}
.due-row.within .entry {
  padding-left: 34px;
  padding-block: 3px;
}
.fold {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: 34px;
  border: 0;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.fold:hover {
  background: var(--sheet-2);
}
.folds .entry {
  padding-right: 42px;
}
</style>
