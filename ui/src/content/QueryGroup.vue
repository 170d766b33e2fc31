<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import QueryNear from './QueryNear.vue'
import QueryTest from './QueryTest.vue'

export type Form = Schemas['QueryForm']
type Row = Schemas['QueryFormRow']

const {
  form,
  indexes,
  depth = 0,
} = defineProps<{ form: Form; indexes: readonly Schemas['IndexView'][]; depth?: number }>()
const emit = defineEmits<{ change: [Form]; remove: [] }>()

const blank = { not: false, test: null, group: null, near: null, text: null }
const put = (at: number, row: Partial<Row>) =>
  emit('change', { ...form, rows: form.rows.map((r, i) => (i === at ? { ...r, ...row } : r)) })
const remove = (at: number) => emit('change', { ...form, rows: form.rows.filter((_, i) => i !== at) })
const add = (row: Partial<Row>) => emit('change', { ...form, rows: [...form.rows, { ...blank, ...row } as Row] })
const value = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <div
    class="group query-form"
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
        <QueryTest
          v-if="row.test"
          :row="i + 1"
          :test="row.test"
          :indexes="indexes"
          @change="put(i, { test: $event })"
        />
        <QueryNear v-else-if="row.near" :row="i + 1" :near="row.near" @change="put(i, { near: $event })" />
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
.raw code {
  background: var(--sheet);
  padding: 2px 6px;
  border: 1px solid var(--line);
}
</style>

<!-- The rows of each kind are components of their own; they share how a field looks. -->
<style>
.query-form .box {
  font-size: 13px;
  height: 28px;
  padding: 0 6px;
}
.query-form .term {
  flex: 1 1 150px;
  max-width: 340px;
}
.query-form .number {
  width: 64px;
}
.query-form .stem {
  display: inline-flex;
  gap: 5px;
  align-items: center;
  white-space: nowrap;
}
.query-form input[type='checkbox'] {
  accent-color: var(--sea);
  margin: 0;
}
</style>
