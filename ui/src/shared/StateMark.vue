<script setup lang="ts">
import { computed } from 'vue'
import { stateWords, type ItemState } from './words'

const { state } = defineProps<{ state: ItemState }>()

/** A shape and a word each, so that nothing hangs on colour alone. */
const tones: Record<ItemState, string> = {
  noRule: 'ink-2',
  inTerm: 'sea',
  awaitingEvent: 'ink-2',
  due: 'copper',
  onDocket: 'copper',
  held: 'plum',
  permanent: 'gold',
  destroyed: 'ink-2',
  handedOver: 'sea',
}
const tone = computed(() => `var(--${tones[state]})`)
</script>

<template>
  <span class="mark" :style="{ color: tone }">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <path v-if="state === 'due'" d="M6 1 11 6 6 11 1 6Z" fill="currentColor" />
      <path
        v-else-if="state === 'onDocket'"
        d="M6 1.5 10.5 6 6 10.5 1.5 6Z"
        fill="none"
        stroke="currentColor"
        stroke-width="1.6"
      />
      <rect v-else-if="state === 'inTerm'" x="1" y="4.5" width="10" height="3" fill="currentColor" />
      <circle
        v-else-if="state === 'awaitingEvent'"
        cx="6"
        cy="6"
        r="4"
        fill="none"
        stroke="currentColor"
        stroke-width="1.7"
      />
      <path v-else-if="state === 'permanent'" d="M1 3h10M1 6h10M1 9h10" stroke="currentColor" stroke-width="1.7" />
      <path v-else-if="state === 'held'" d="M2 1.500h8v4.500a4 4 0 0 1-8 0Z" fill="currentColor" />
      <path v-else-if="state === 'destroyed'" d="M2 2l8 8M10 2l-8 8" stroke="currentColor" stroke-width="1.5" />
      <path
        v-else-if="state === 'handedOver'"
        d="M1 6h8M6 2.500 9.500 6 6 9.500"
        fill="none"
        stroke="currentColor"
        stroke-width="1.500"
      />
      <path v-else d="M2 6h8" stroke="currentColor" stroke-width="1.5" stroke-dasharray="2 2" />
    </svg>
    {{ stateWords[state] }}
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
  font-weight: 500;
}
</style>
