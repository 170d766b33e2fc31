<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { indexWords, relationWords } from '@/shared/words'

type Test = Schemas['QueryFormTest']
/** A row of a query's form: an index, a relation and a term. */
const { test, indexes } = defineProps<{
  /** From 1, for its labels. */
  row: number
  test: Test
  indexes: readonly Schemas['IndexView'][]
}>()
const emit = defineEmits<{ change: [Test] }>()

const kindOf = (index: string) => indexes.find((i) => i.name === index)?.kind ?? 'names'
const relations = () => {
  const known = indexes.find((i) => i.name === test.index)?.relations ?? []
  return known.includes(test.relation) ? known : [...known, test.relation]
}
const names = () =>
  indexes.some((i) => i.name === test.index) ? indexes.map((i) => i.name) : [test.index, ...indexes.map((i) => i.name)]
const hints: Record<string, string> = {
  words: 'words; * stands for the rest',
  dates: '2026-03-14, 2026-03, today-P30D',
  sizes: '20 kB, 5 MB',
  names: 'value; * stands for the rest',
  kinds: 'iban, payment-card …',
}
const put = (part: Partial<Test>) => emit('change', { ...test, ...part })
function setIndex(index: string) {
  const same = indexes.find((i) => i.name === index)?.relations.includes(test.relation)
  put({ index, relation: same ? test.relation : '=', stem: test.stem && kindOf(index) === 'words' })
}
/** "In the last N days" is no relation of the query language: it is written as a comparison with today. */
const lastDays = (t: Test) => (t.relation === '>' ? /^today-P(\d+)D$/.exec(t.term)?.[1] : undefined)
function setRelation(relation: string) {
  if (relation === 'last') put({ relation: '>', term: 'today-P30D' })
  else put({ relation, term: lastDays(test) ? '' : test.term })
}
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <select class="box" :aria-label="`Row ${row}: index`" :value="test.index" @change="setIndex(value($event))">
    <option v-for="name in names()" :key="name" :value="name">{{ indexWords(name) }}</option>
  </select>
  <select
    class="box"
    :aria-label="`Row ${row}: relation`"
    :value="lastDays(test) ? 'last' : test.relation"
    @change="setRelation(value($event))"
  >
    <option v-if="kindOf(test.index) === 'dates'" value="last">be in the last … days</option>
    <option v-for="relation in relations()" :key="relation" :value="relation">
      {{ relationWords(relation, kindOf(test.index)) }}
    </option>
  </select>
  <input
    v-if="lastDays(test)"
    class="box number"
    type="number"
    min="1"
    max="36500"
    :aria-label="`Row ${row}: days`"
    :value="lastDays(test)"
    @change="put({ term: `today-P${Math.max(1, +value($event))}D` })"
  />
  <input
    v-else
    class="box term"
    :aria-label="`Row ${row}: value`"
    :value="test.term"
    :placeholder="hints[kindOf(test.index)]"
    @change="put({ term: value($event) })"
  />
  <label
    v-if="kindOf(test.index) === 'words' && test.relation !== '=='"
    class="small stem"
    title="Finds other forms of the word too"
    ><input type="checkbox" :checked="test.stem" @change="put({ stem: ($event.target as HTMLInputElement).checked })" />
    other forms</label
  >
</template>
