<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { keepUntil } from './format'

defineProps<{ reasons: readonly Schemas['Reason'][] }>()
</script>

<template>
  <ol class="reasons" aria-label="Reasons, winner first">
    <li v-for="(reason, i) in reasons" :key="i" :class="{ won: reason.won }">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <path
          d="M7 1.5 12.5 7 7 12.5 1.5 7Z"
          :fill="reason.won ? 'currentColor' : 'none'"
          stroke="currentColor"
          stroke-width="1.4"
        />
      </svg>
      <div>
        <strong
          >{{ reason.rule }}<template v-if="reason.keepUntil">: {{ keepUntil(reason.keepUntil) }}</template></strong
        >
        <span class="sr">{{ reason.won ? ' (decides)' : ' (does not decide)' }}</span>
        <p>{{ reason.why }}</p>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.reasons {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
li {
  display: grid;
  grid-template-columns: 20px 1fr;
  gap: 6px;
  color: var(--ink-2);
}
li.won {
  color: var(--sea);
}
svg {
  margin-top: 3px;
}
strong {
  font-weight: 600;
}
p {
  margin: 2px 0 0;
  color: var(--ink-2);
  font-size: 13.5px;
}
</style>
