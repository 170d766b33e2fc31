<script setup lang="ts">
import type { Schemas } from './api/client'

/** What is wrong with a query, with its place marked among the characters around it. */
defineProps<{ text: string; mistake: NonNullable<Schemas['QueryReading']['mistake']> }>()
const emit = defineEmits<{ go: [] }>()
/** Characters shown on either side. */
const around = 24
</script>

<template>
  <p class="mistake" role="alert">
    <code aria-hidden="true"
      >{{ text.slice(Math.max(0, mistake.at - around), mistake.at)
      }}<u>{{ text.slice(mistake.at, mistake.at + Math.max(1, mistake.length)) || '▏' }}</u
      >{{
        text.slice(mistake.at + Math.max(1, mistake.length), mistake.at + Math.max(1, mistake.length) + around)
      }}</code
    >
    {{ mistake.sentence }} The list shows what was asked before.
    <button type="button" class="link" @click="emit('go')">Go there</button>
  </p>
</template>

<style scoped>
.mistake {
  margin: 5px 0 0;
  font-size: 12.5px;
  color: var(--copper);
}
code {
  font-size: 12.5px;
  display: inline-block;
  margin-right: 8px;
  padding: 0 5px;
  background: var(--copper-wash);
  color: var(--ink);
  border-radius: var(--radius);
  white-space: pre;
}
u {
  text-decoration: underline wavy var(--copper);
  text-underline-offset: 3px;
}
</style>
