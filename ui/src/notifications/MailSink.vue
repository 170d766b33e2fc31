<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'

/** The mails that the small mail server inside has taken. */
const { mails } = defineProps<{ mails: readonly Schemas['SunkMail'][] }>()
const opened = ref<string | null>(null)
const letter = computed(() => mails.find((m) => m.name === opened.value))
</script>

<template>
  <p class="small quiet">
    No mail leaves this machine: a small mail server inside takes everything and keeps it as .eml files.
  </p>
  <div class="sink">
    <ul class="letters">
      <li v-for="m in mails" :key="m.name">
        <button :aria-current="m.name === opened" @click="opened = m.name">
          <strong>{{ m.subject }}</strong><small class="quiet">{{ m.to }}</small>
        </button>
      </li>
    </ul>
    <article v-if="letter">
      <p class="small quiet">
        {{ letter.from }} to {{ letter.to }}, {{ moment(letter.date) }} ·
        <a :href="`/api/mail-sink/${letter.name}`" download>.eml</a>
      </p>
      <h3>{{ letter.subject }}</h3>
      <pre>{{ letter.text }}</pre>
    </article>
    <p v-else class="quiet">Choose a mail to read it.</p>
  </div>
</template>

<style scoped>
.sink {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 18px;
}
.letters {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 360px;
  overflow: auto;
  border: 1px solid var(--line);
}
.letters button {
  display: grid;
  width: 100%;
  text-align: left;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  padding: 6px 12px;
  color: var(--ink);
  cursor: pointer;
}
.letters button:hover {
  background: var(--sheet-2);
}
.letters button[aria-current='true'] {
  background: var(--sea-wash);
}
.letters strong {
  font-weight: 600;
  font-size: 13.5px;
}
pre {
  font: 14px/1.5 var(--sans);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 8px 0 0;
}
h3 {
  font-size: 16px;
  margin: 4px 0 0;
}
article p {
  margin: 0;
}
</style>
