<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'

const { catalogue } = defineProps<{ catalogue: Schemas['StatementCatalogue'] }>()
const emit = defineEmits<{ choose: [statement: Schemas['ReadyStatement'] | Schemas['SavedStatementView']] }>()
const { act, problem } = useAct(['statements'])
const drop = (id: number) => act(() => take(api.DELETE('/api/statements/{id}', { params: { path: { id } } })))
const table = ref('')

async function upload(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const name = file.name
    .replace(/\.[^.]*$/, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+/, '')
  await act(async () => {
    await take(
      api.POST('/api/statements/tables/{name}', {
        params: { path: { name } },
        body: file as never,
        bodySerializer: (b: unknown) => b as Blob,
        headers: { 'Content-Type': 'text/csv' },
      } as never),
    )
    table.value = name
  })
  input.value = ''
}
</script>

<template>
  <aside aria-label="What can be asked">
    <h2>Ready statements</h2>
    <ul>
      <li v-for="r in catalogue.ready" :key="r.name">
        <button class="link" :title="r.says" @click="emit('choose', r)">{{ r.name }}</button>
      </li>
    </ul>
    <template v-if="catalogue.own.length"
      ><h2>Your own</h2>
      <ul>
        <li v-for="o in catalogue.own" :key="o.id">
          <button class="link" @click="emit('choose', o)">{{ o.name }}</button>
          <span v-if="o.rhythm" class="small" :class="o.lastFailed ? 'lacking' : 'quiet'">{{
            o.lastFailed ? '▲ no answer' : o.rhythm
          }}</span>
          <button class="link small" :aria-label="`Drop ${o.name}`" @click="drop(o.id)">drop</button>
        </li>
      </ul></template
    >
    <h2>Views</h2>
    <details v-for="v in catalogue.views" :key="v.name">
      <summary>{{ v.name }}</summary>
      <p class="small quiet">{{ v.says }}</p>
      <table>
        <tbody>
          <tr v-for="c in v.columns" :key="c.name">
            <td>{{ c.name }}</td>
            <td class="quiet">{{ c.type.toLowerCase() }}</td>
          </tr>
        </tbody>
      </table>
    </details>
    <label class="label" for="upload">Ask a table of your own (CSV)</label>
    <input id="upload" type="file" accept=".csv,text/csv" @change="upload" />
    <p v-if="table" class="small" role="status">It is the view {{ table }}.</p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </aside>
</template>

<style scoped>
aside {
  overflow: auto;
  padding: 14px 16px 32px;
  border-right: 1px solid var(--line);
  background: var(--sheet);
  font-size: 13.5px;
}
h2 {
  font-size: 15px;
  margin: 10px 0 6px;
}
h2:first-child {
  margin-top: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  padding: 3px 0;
}
.link {
  text-align: left;
}
summary {
  cursor: pointer;
  padding: 3px 0;
}
details p {
  margin: 2px 0;
}
details table {
  font-size: 12.5px;
  margin-bottom: 6px;
}
details td {
  padding: 0 12px 0 0;
}
.label {
  display: block;
  margin: 14px 0 4px;
}
input {
  max-width: 100%;
  font: inherit;
  font-size: 12.5px;
}
</style>
