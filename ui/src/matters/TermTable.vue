<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

/** How much each term of a query finds; each number opens into its items. */
defineProps<{ terms: readonly Schemas['TermFigures'][] }>()
const emit = defineEmits<{ look: [title: string, query: Record<string, number | string>] }>()
const columns: {
  of: 'alone' | 'found' | 'only' | 'documents' | 'families'
  head: string
  says?: string
  title: (term: string) => string
  scope?: string
}[] = [
  {
    of: 'alone',
    head: 'alone',
    says: 'In the same places and dates, whatever the other terms say',
    title: (term) => `With ${term}, whatever the other terms say, as it is now`,
    scope: 'alone',
  },
  { of: 'found', head: 'found', title: (term) => `With ${term}` },
  {
    of: 'only',
    head: 'only',
    says: 'With no other term of the query',
    title: (term) => `With ${term} and no other term`,
    scope: 'only',
  },
  {
    of: 'documents',
    head: 'documents',
    says: 'Messages and attachments that hold it themselves',
    title: (term) => `Items whose documents hold ${term}`,
  },
  {
    of: 'families',
    head: 'with families',
    says: 'All documents of the families in which one holds it',
    title: (term) => `Families with ${term}`,
  },
]
</script>

<template>
  <table class="sheet" aria-label="By term">
    <thead>
      <tr>
        <th>Term</th>
        <th v-for="c in columns" :key="c.of" class="num" :title="c.says">{{ c.head }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(t, i) in terms" :key="t.term">
        <td>
          <code>{{ t.term }}</code>
        </td>
        <td v-for="c in columns" :key="c.of" class="num">
          <button
            v-if="t[c.of]"
            class="link"
            @click="emit('look', c.title(t.term), { term: i, ...(c.scope ? { scope: c.scope } : {}) })"
          >
            {{ count(t[c.of]) }}</button><span v-else>0</span>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
code {
  font-size: 13px;
}
</style>
