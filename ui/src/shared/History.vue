<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { moment } from './format'
import { verbWords } from './words'

type Entry = Schemas['LedgerView']

const { say = (entry: Entry) => verbWords(entry.verb) } = defineProps<{
  entries: readonly Entry[]
  /** What happened, where there is more to tell than the verb. */
  say?: (entry: Entry) => string
}>()
/** What stands in a person's place where a job was asked for by another job or by a rule. */
const nobody = new Set(['scan', 'daily-run', 'default of its place'])
/** Work that nobody asked for was done by the product itself. */
const who = ({ who, onBehalfOf }: Entry) =>
  onBehalfOf && !nobody.has(onBehalfOf) ? onBehalfOf : who.startsWith('job:') ? 'Wide Keel' : who
</script>

<template>
  <section aria-label="History">
    <h3>History</h3>
    <p v-if="entries.length === 0" class="quiet small">Nothing has happened to it yet.</p>
    <ul>
      <li v-for="entry in entries" :key="entry.sequence">
        <RouterLink
          :to="{ path: '/activity/ledger', query: { kind: entry.subjectKind, subject: entry.subjectId } }"
          :title="`Ledger entry ${entry.sequence}`"
          >{{ moment(entry.at) }}</RouterLink
        >
        <span>&nbsp;{{ say(entry) }}, {{ who(entry) }}</span>
        <em v-if="entry.reason">“{{ entry.reason }}”</em>
      </li>
    </ul>
  </section>
</template>

<style scoped>
h3 {
  font-size: 15px;
  margin: 0 0 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 7px;
  font-size: 12.5px;
  color: var(--ink-2);
}
em {
  display: block;
  color: var(--ink-3);
}
</style>
