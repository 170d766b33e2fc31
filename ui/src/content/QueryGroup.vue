<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { indexWords, relationWords } from '@/shared/words'

export type Form = Schemas['QueryForm']
type Row = Schemas['QueryFormRow']
type Test = Schemas['QueryFormTest']
type Near = Schemas['QueryFormNear']

const {
  form,
  indexes,
  depth = 0,
} = defineProps<{ form: Form; indexes: readonly Schemas['IndexView'][]; depth?: number }>()
const emit = defineEmits<{ change: [Form]; remove: [] }>()

const blank = { not: false, test: null, group: null, near: null, text: null }
const kindOf = (index: string) => indexes.find((i) => i.name === index)?.kind ?? 'names'
const relationsOf = (test: Test) => {
  const known = indexes.find((i) => i.name === test.index)?.relations ?? []
  return known.includes(test.relation) ? known : [...known, test.relation]
}
const indexNames = (test: Test) =>
  indexes.some((i) => i.name === test.index) ? indexes.map((i) => i.name) : [test.index, ...indexes.map((i) => i.name)]
const hints: Record<string, string> = {
  words: 'words; * stands for the rest',
  dates: '2026-03-14, 2026-03, today-P30D',
  sizes: '20 kB, 5 MB',
  names: 'value; * stands for the rest',
  kinds: 'iban, payment-card …',
}
const units = computed(() => ['word', 'sentence', 'paragraph', 'element'] as const)

const put = (at: number, row: Partial<Row>) =>
  emit('change', { ...form, rows: form.rows.map((r, i) => (i === at ? { ...r, ...row } : r)) })
const putTest = (at: number, test: Test, part: Partial<Test>) => put(at, { test: { ...test, ...part } })
const putNear = (at: number, near: Near, part: Partial<Near>) => put(at, { near: { ...near, ...part } })
function setIndex(at: number, test: Test, index: string) {
  const same = indexes.find((i) => i.name === index)?.relations.includes(test.relation)
  putTest(at, test, { index, relation: same ? test.relation : '=', stem: test.stem && kindOf(index) === 'words' })
}
/** "In the last N days" is no relation of the query language: it is written as a comparison with today. */
const lastDays = (test: Test) => (test.relation === '>' ? /^today-P(\d+)D$/.exec(test.term)?.[1] : undefined)
function setRelation(at: number, test: Test, relation: string) {
  if (relation === 'last') putTest(at, test, { relation: '>', term: 'today-P30D' })
  else putTest(at, test, { relation, term: lastDays(test) ? '' : test.term })
}
const remove = (at: number) => emit('change', { ...form, rows: form.rows.filter((_, i) => i !== at) })
const add = (row: Partial<Row>) => emit('change', { ...form, rows: [...form.rows, { ...blank, ...row } as Row] })
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <div
    class="group"
    :class="{ inner: depth > 0 }"
    role="group"
    :aria-label="form.anyOf ? 'Any of these' : 'All of these'"
  >
    <p class="head">
      <select
        class="box"
        aria-label="How the rows are joined"
        :value="String(form.anyOf)"
        @change="emit('change', { ...form, anyOf: value($event) === 'true' })"
      >
        <option value="false">All of these</option>
        <option value="true">Any of these</option>
      </select>
      <button v-if="depth > 0" type="button" class="link small" @click="emit('remove')">Remove the group</button>
    </p>
    <ul>
      <li v-for="(row, i) in form.rows" :key="i" :class="{ holds: row.group }">
        <select
          v-if="!row.text"
          class="box not"
          :aria-label="`Row ${i + 1}: must or must not`"
          :value="String(row.not)"
          @change="put(i, { not: value($event) === 'true' })"
        >
          <option value="false">must</option>
          <option value="true">must not</option>
        </select>
        <template v-if="row.test">
          <select
            class="box"
            :aria-label="`Row ${i + 1}: index`"
            :value="row.test.index"
            @change="setIndex(i, row.test, value($event))"
          >
            <option v-for="name in indexNames(row.test)" :key="name" :value="name">{{ indexWords(name) }}</option>
          </select>
          <select
            class="box"
            :aria-label="`Row ${i + 1}: relation`"
            :value="lastDays(row.test) ? 'last' : row.test.relation"
            @change="setRelation(i, row.test, value($event))"
          >
            <option v-if="kindOf(row.test.index) === 'dates'" value="last">be in the last … days</option>
            <option v-for="relation in relationsOf(row.test)" :key="relation" :value="relation">
              {{ relationWords(relation, kindOf(row.test.index)) }}
            </option>
          </select>
          <input
            v-if="lastDays(row.test)"
            class="box number"
            type="number"
            min="1"
            max="36500"
            :aria-label="`Row ${i + 1}: days`"
            :value="lastDays(row.test)"
            @change="putTest(i, row.test, { term: `today-P${Math.max(1, +value($event))}D` })"
          />
          <input
            v-else
            class="box term"
            :aria-label="`Row ${i + 1}: value`"
            :value="row.test.term"
            :placeholder="hints[kindOf(row.test.index)]"
            @change="putTest(i, row.test, { term: value($event) })"
          />
          <label
            v-if="kindOf(row.test.index) === 'words' && row.test.relation !== '=='"
            class="small stem"
            title="Finds other forms of the word too"
            ><input
              type="checkbox"
              :checked="row.test.stem"
              @change="putTest(i, row.test, { stem: ($event.target as HTMLInputElement).checked })"
            />
            other forms</label
          >
        </template>
        <template v-else-if="row.near">
          <input
            class="box term"
            :aria-label="`Row ${i + 1}: first words`"
            :value="row.near.first"
            @change="putNear(i, row.near, { first: value($event) })"
          />
          <span class="small">{{ row.near.ordered ? 'before' : 'near' }}</span>
          <input
            class="box term"
            :aria-label="`Row ${i + 1}: second words`"
            :value="row.near.second"
            @change="putNear(i, row.near, { second: value($event) })"
          />
          <span class="small">at most</span
          ><input
            class="box number"
            type="number"
            min="0"
            max="1000"
            :aria-label="`Row ${i + 1}: distance`"
            :value="row.near.distance"
            @change="putNear(i, row.near, { distance: Math.max(0, +value($event)) })"
          />
          <select
            class="box"
            :aria-label="`Row ${i + 1}: unit`"
            :value="row.near.unit"
            @change="putNear(i, row.near, { unit: value($event) as Near['unit'] })"
          >
            <option v-for="u in units" :key="u" :value="u">
              {{ { word: 'words', sentence: 'sentences', paragraph: 'paragraphs', element: 'elements' }[u] }} apart
            </option>
          </select>
          <label class="small stem"
            ><input
              type="checkbox"
              :checked="row.near.ordered"
              @change="putNear(i, row.near, { ordered: ($event.target as HTMLInputElement).checked })"
            />
            in this order</label
          >
        </template>
        <QueryGroup
          v-else-if="row.group"
          :form="row.group"
          :indexes="indexes"
          :depth="depth + 1"
          @change="put(i, { group: $event })"
          @remove="remove(i)"
        />
        <span v-else class="raw"
          ><code>{{ row.text }}</code> <span class="small quiet">as written; change it in the text</span></span
        >
        <button
          v-if="!row.group"
          type="button"
          class="link small"
          :aria-label="`Remove row ${i + 1}`"
          @click="remove(i)"
        >
          Remove
        </button>
      </li>
    </ul>
    <p class="adds small">
      <button
        type="button"
        class="link"
        @click="add({ test: { index: 'text', relation: '=', term: '', stem: false } })"
      >
        Add a row
      </button>
      <button
        type="button"
        class="link"
        @click="add({ near: { first: '', second: '', distance: 5, unit: 'word', ordered: false } })"
      >
        Add words near each other
      </button>
      <button
        type="button"
        class="link"
        @click="
          add({
            group: {
              anyOf: !form.anyOf,
              rows: [{ ...blank, test: { index: 'text', relation: '=', term: '', stem: false } }],
            },
          })
        "
      >
        Add a group
      </button>
    </p>
  </div>
</template>

<style scoped>
.group {
  display: grid;
  gap: 6px;
  flex: 1;
}
.inner {
  border-left: 2px solid var(--line-2);
  padding-left: 10px;
}
.head,
.adds {
  margin: 0;
  display: flex;
  gap: 16px;
  align-items: center;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
li.holds {
  align-items: flex-start;
  flex-wrap: nowrap;
}
.box {
  font: inherit;
  font-size: 13px;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  height: 28px;
  padding: 0 6px;
}
.term {
  flex: 1 1 150px;
  max-width: 340px;
}
.number {
  width: 64px;
}
.stem {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  white-space: nowrap;
}
.raw code {
  background: var(--sheet);
  padding: 2px 6px;
  border: 1px solid var(--line);
}
input[type='checkbox'] {
  accent-color: var(--sea);
  margin: 0;
}
</style>
