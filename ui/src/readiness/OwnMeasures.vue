<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'
import { areas } from './words'

/** Measures in SQL and CQL: written, tried on the facts of now, and kept for gauges and tests of controls. */
const { data, error } = useQuery({
  queryKey: ['gauges', 'own'],
  queryFn: () => take(api.GET('/api/own-measures')),
})
const examples: Record<Schemas['MeasureOver'], string> = {
  statement: 'SELECT id, name, second_factor AS ok FROM accounts',
  items: 'unfiled = true',
  events: 'action = log.stop',
}
const empty = {
  title: '',
  says: '',
  area: 'access',
  over: 'statement' as Schemas['MeasureOver'],
  question: examples.statement,
  least: null as number | null,
  most: 0 as number | null,
}
const form = reactive({ ...empty })
const isQuery = computed(() => form.over !== 'statement')
/** What is asked, as the server takes it; a statement has no bounds. */
const asks = computed(() => ({
  over: form.over,
  question: form.question,
  least: isQuery.value ? form.least : null,
  most: isQuery.value ? form.most : null,
}))
watch(
  () => form.over,
  (over, before) => {
    if (form.question === examples[before]) form.question = examples[over]
    trial.value = undefined
  },
)
const open = ref<Schemas['OwnMeasureView'] | 'new' | null>(null)
const trial = ref<Schemas['MeasureTrial']>()
const shown = ref(12)
const { act, busy, problem } = useAct(['readiness'])
function edit(measure: Schemas['OwnMeasureView'] | 'new') {
  if (measure === 'new') Object.assign(form, empty)
  else {
    const { asks: asked, ...words } = measure.measure
    Object.assign(form, words, asked)
  }
  ;[open.value, trial.value, problem.value] = [measure, undefined, null]
}
const run = () =>
  act(async () => {
    trial.value = undefined
    trial.value = await take(api.POST('/api/own-measures/trial', { body: asks.value }))
  })
async function keep() {
  const kept = open.value
  const body = { title: form.title, says: form.says, area: form.area, asks: asks.value }
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
        >a statement or a query over what you may read; a gauge shows one, and a test of a control expects it</span
      >
      <button v-if="!open" class="link right" @click="edit('new')">Write one</button>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <form v-if="open" class="grid" novalidate @submit.prevent="keep">
      <label class="label" for="m-title">Title</label><el-input id="m-title" v-model="form.title" />
      <label class="label" for="m-says">What it counts</label
      ><el-input id="m-says" v-model="form.says" placeholder="Accounts that have a second factor." />
      <span class="label">Area</span>
      <el-select v-model="form.area" aria-label="Area"
        ><el-option v-for="area in areas" :key="area" :value="area" :label="area"
      /></el-select>
      <span class="label">It asks</span>
      <el-radio-group v-model="form.over" size="small" aria-label="It asks"
        ><el-radio-button value="statement">a statement in SQL</el-radio-button
        ><el-radio-button value="items">how many items</el-radio-button
        ><el-radio-button value="events">how many events</el-radio-button></el-radio-group
      >
      <label class="label" for="m-sql">{{ isQuery ? 'Query (CQL)' : 'Statement' }}</label>
      <el-input
        id="m-sql"
        v-model="form.question"
        type="textarea"
        :rows="isQuery ? 2 : 5"
        class="sql"
        spellcheck="false"
      />
      <template v-if="isQuery">
        <span class="label">It is right with</span>
        <span class="row"
          >at least
          <el-input-number v-model="form.least" size="small" :min="0" :controls="false" aria-label="At least" />
          and at most
          <el-input-number v-model="form.most" size="small" :min="0" :controls="false" aria-label="At most" />
          <span class="small quiet">an empty field is no bound</span></span
        >
      </template>
      <span v-if="!isQuery" /><span v-if="!isQuery" class="small quiet"
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
        <template v-if="isQuery"
          >{{ trial.right ? '✓ As it should be' : '▲ Not as it should be' }}:
          <RouterLink v-if="trial.subjects[0]" :to="trial.subjects[0].link">{{
            trial.subjects[0].why
          }}</RouterLink>.</template
        ><template v-else
          >{{ trial.right }} of {{ plural(trial.of, 'row') }} are as they should be<template v-if="trial.of">
            = <strong>{{ Math.round((trial.right / trial.of) * 1000) / 10 }} %</strong></template
          >.</template
        >
      </p>
      <table v-if="trial.subjects.length && !isQuery" class="sheet">
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
