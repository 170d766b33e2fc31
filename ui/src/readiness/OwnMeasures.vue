<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'
import { areas } from './words'

/** Measures in SQL: written, tried on the facts of now, and kept for gauges and tests of controls. */
const { data, error } = useQuery({
  queryKey: ['gauges', 'own'],
  queryFn: () => take(api.GET('/api/own-measures')),
})
const empty = { title: '', says: '', area: 'access', sql: 'SELECT id, name, second_factor AS ok FROM accounts' }
const form = reactive({ ...empty })
const open = ref<Schemas['OwnMeasureView'] | 'new' | null>(null)
const trial = ref<Schemas['MeasureTrial']>()
const shown = ref(12)
const { act, busy, problem } = useAct(['readiness'])
function edit(measure: Schemas['OwnMeasureView'] | 'new') {
  Object.assign(form, measure === 'new' ? empty : measure.measure)
  ;[open.value, trial.value, problem.value] = [measure, undefined, null]
}
const run = () =>
  act(async () => {
    trial.value = undefined
    trial.value = await take(api.POST('/api/own-measures/trial', { body: { sql: form.sql } }))
  })
async function keep() {
  const kept = open.value
  const body = { ...form }
  const done = await act(() =>
    kept === 'new'
      ? take(api.POST('/api/own-measures', { body }))
      : take(
          api.PUT('/api/own-measures/{id}', {
            params: { path: { id: kept!.id } },
            ...ifMatch(kept!.revision),
            body,
          }),
        ),
  )
  if (done) open.value = null
}
const drop = (id: number) => act(() => take(api.DELETE('/api/own-measures/{id}', { params: { path: { id } } })))
</script>

<template>
  <section class="panel block" aria-label="Measures of your own">
    <header>
      <h2>Measures of your own</h2>
      <span class="quiet small"
        >in SQL over what you may read; a gauge shows one, and a test of a control expects it</span
      >
      <button v-if="!open" class="link right" @click="edit('new')">Write one</button>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <form v-if="open" class="grid" @submit.prevent="keep">
      <label class="label" for="m-title">Title</label><el-input id="m-title" v-model="form.title" />
      <label class="label" for="m-says">What it counts</label
      ><el-input id="m-says" v-model="form.says" placeholder="Accounts that have a second factor." />
      <span class="label">Area</span>
      <el-select v-model="form.area" aria-label="Area"
        ><el-option v-for="area in areas" :key="area" :value="area" :label="area"
      /></el-select>
      <label class="label" for="m-sql">Statement</label>
      <el-input id="m-sql" v-model="form.sql" type="textarea" :rows="5" class="sql" spellcheck="false" />
      <span /><span class="small quiet"
        >Each row is one thing that is looked at: <code>id</code> tells it from the others, <code>ok</code> is true or
        false; <code>name</code>, <code>unit</code>, <code>why</code> and <code>link</code> where you want them. The
        views stand under Activity, SQL.</span
      >
      <span /><span class="row"
        ><el-button :loading="busy" @click="run">Try it</el-button>
        <el-button type="primary" native-type="submit" :loading="busy">Keep it</el-button>
        <button type="button" class="link" @click="open = null">Leave it</button></span
      >
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template v-if="open && trial">
      <p role="status">
        {{ trial.right }} of {{ plural(trial.of, 'row') }} are as they should be<template v-if="trial.of">
          = <strong>{{ Math.round((trial.right / trial.of) * 1000) / 10 }} %</strong></template
        >.
      </p>
      <table v-if="trial.subjects.length" class="sheet">
        <tbody>
          <tr v-for="s in trial.subjects.slice(0, shown)" :key="s.id">
            <td>{{ s.right ? '✓' : '▲' }} {{ s.name }}</td>
            <td class="small">{{ s.unit }}</td>
            <td class="small">{{ s.why }}</td>
          </tr>
        </tbody>
      </table>
      <ShowMore v-model="shown" :of="trial.subjects.length" />
      <p v-if="trial.of > trial.subjects.length" class="small quiet">
        The first {{ trial.subjects.length }} of {{ trial.of }} are listed here; a gauge lists all.
      </p>
    </template>
    <table v-if="!open && data?.length" class="sheet">
      <tbody>
        <tr v-for="m in data" :key="m.id">
          <td>{{ m.measure.title }}</td>
          <td class="small">{{ m.measure.says }} It sees what {{ m.by }} may read.</td>
          <td class="do">
            <button class="link small" @click="edit(m)">Change</button>
            <button class="link small" :disabled="busy" @click="drop(m.id)">Remove</button>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
h2 {
  font-size: 16px;
}
.right {
  margin-left: auto;
}
.grid {
  display: grid;
  grid-template-columns: 140px minmax(0, 640px);
  gap: 8px 14px;
  align-items: center;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.sql :deep(textarea) {
  font:
    13px/1.5 ui-monospace,
    monospace;
}
.do {
  text-align: right;
  white-space: nowrap;
}
.do button + button {
  margin-left: 12px;
}
p {
  margin: 0;
}
</style>
