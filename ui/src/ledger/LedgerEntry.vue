<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { count, moment } from '@/shared/format'
import { linkOf, sentence } from './sentence'

/** One entry, whole. */
const { entry } = defineProps<{ entry: Schemas['LedgerView'] }>()
const emit = defineEmits<{ narrow: [by: Record<string, string>] }>()
const pretty = (value: unknown) => JSON.stringify(value, null, 2)
</script>

<template>
  <article class="entry">
    <p class="small quiet">Entry {{ count(entry.sequence) }}</p>
    <h1 class="said">{{ sentence(entry) }}</h1>
    <p v-if="linkOf(entry)"><RouterLink :to="linkOf(entry)!">Open what it is about</RouterLink></p>
    <dl class="kv">
      <dt>When</dt>
      <dd :title="entry.at">{{ moment(entry.at) }}</dd>
      <dt>Who</dt>
      <dd>
        <button class="link" @click="emit('narrow', { who: entry.who })">{{ entry.who }}</button><span
          v-if="entry.onBehalfOf"
        >
          for {{ entry.onBehalfOf }}</span
        ><span v-if="entry.address" class="quiet"> from {{ entry.address }}</span>
      </dd>
      <dt>Verb</dt>
      <dd>
        <button class="link" @click="emit('narrow', { verb: entry.verb })">{{ entry.verb }}</button>
      </dd>
      <dt>On</dt>
      <dd>
        <button class="link" @click="emit('narrow', { kind: entry.subjectKind, subject: entry.subjectId })">
          {{ entry.subjectKind }} {{ entry.subjectId }}
        </button>
      </dd>
      <template v-if="entry.reason"
        ><dt>Reason</dt>
        <dd>“{{ entry.reason }}”</dd></template
      >
      <dt>Leaf hash</dt>
      <dd class="hash">{{ entry.hash }}</dd>
    </dl>
    <template v-if="entry.before"
      ><h2>Before</h2>
      <pre class="raw" tabindex="0">{{ pretty(entry.before) }}</pre>
    </template>
    <template v-if="entry.after"
      ><h2>After</h2>
      <pre class="raw" tabindex="0">{{ pretty(entry.after) }}</pre>
    </template>
  </article>
</template>

<style scoped>
.hash {
  font-size: 12px;
  overflow-wrap: anywhere;
  color: var(--ink-2);
}
.entry {
  display: grid;
  gap: 10px;
}
.entry h1 {
  font-size: 21px;
}
.entry h2 {
  font-size: 15px;
}
.entry p {
  margin: 0;
}
.said::first-letter {
  text-transform: uppercase;
}
.said {
  display: inline-block;
}
</style>
