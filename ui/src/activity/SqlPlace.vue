<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { keepTyped } from '@/shared/typed'
import { useUrl } from '@/shared/url'
import { useSpan } from './span'
import SpanPicker from './SpanPicker.vue'
import SqlAnswer from './SqlAnswer.vue'
import SqlCatalogue from './SqlCatalogue.vue'
import SqlEditor from './SqlEditor.vue'

const { text } = useUrl()
const { days, params } = useSpan('90')
const form = reactive({
  sql: 'SELECT action, count(*) AS events\nFROM events\nGROUP BY action\nORDER BY events DESC',
  name: '',
})
keepTyped('statement', form)
const catalogue = useQuery({ queryKey: ['statements'], queryFn: () => take(api.GET('/api/statements')) })
const answer = ref<Schemas['StatementResult'] | null>(null)
const { act, busy, problem } = useAct([])
const saving = useAct(['statements'])

/** A statement that an address names is put into the editor. */
watch(
  [() => text('statement').value, () => catalogue.data.value],
  ([name, all]) => {
    const found = all?.ready.find((r) => r.name === name) ?? all?.own.find((o) => o.name === name)
    if (found) choose(found)
  },
  { immediate: true },
)
/** Others than those that the statement names are not sent. */
const parameters = computed(() => ({
  from: params.value.from ?? '0001-01-01T00:00:00Z',
  before: params.value.before ?? '9999-01-01T00:00:00Z',
}))
function choose(statement: { name: string; sql: string }) {
  Object.assign(form, { sql: statement.sql, name: statement.name })
  void run()
}
const body = computed(() => ({
  sql: form.sql,
  parameters: Object.fromEntries(
    Object.entries(parameters.value).map(([k, v]) => [k, v.replace('T', ' ').replace(/Z$/, '')]),
  ),
}))
const run = () =>
  act(async () => {
    answer.value = null
    answer.value = await take(api.POST('/api/statements/answers', { body: body.value }))
  })
const save = () =>
  saving.act(() => take(api.POST('/api/statements', { body: { name: form.name.trim(), sql: form.sql } })))
async function download() {
  const response = await api.POST('/api/statements/answers.csv', { body: body.value, parseAs: 'blob' })
  const link = document.createElement('a')
  link.href = URL.createObjectURL(response.data as unknown as Blob)
  link.download = 'answer.csv'
  link.click()
  URL.revokeObjectURL(link.href)
}
</script>

<template>
  <main class="page">
    <SqlCatalogue v-if="catalogue.data.value" :catalogue="catalogue.data.value" @choose="choose" />
    <section class="work">
      <header>
        <h1>Ask in SQL</h1>
        <span class="quiet small">one SELECT over the views at the left; nothing that you may not read is in them</span>
        <SpanPicker v-model="days" class="right" />
      </header>
      <SqlEditor v-model="form.sql" :catalogue="catalogue.data.value" :mistake="problem?.message" @run="run" />
      <p class="acts-row">
        <el-button type="primary" :loading="busy" @click="run">Ask</el-button>
        <span class="quiet small"
          >Ctrl Enter asks · <code>$from</code> and <code>$before</code> are the time chosen above</span
        >
        <el-input v-model="form.name" size="small" class="name" placeholder="Name" aria-label="Name of the statement" />
        <el-button size="small" :disabled="!form.name.trim()" :loading="saving.busy.value" @click="save"
          >Keep it</el-button
        >
        <button v-if="answer" class="link small" @click="download">Save as CSV</button>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p v-if="saving.problem.value" class="problem" role="alert">{{ saving.problem.value.message }}</p>
      <p v-if="answer" class="small quiet" role="status">
        {{ plural(answer.rows.length, 'row') }}{{ answer.cut ? ' shown; there are more' : '' }}, in
        {{ answer.seconds }} s
      </p>
      <SqlAnswer v-if="answer" :answer="answer" />
    </section>
  </main>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
}
.work {
  padding: 14px 20px;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-width: 0;
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
p {
  margin: 0;
}
.right {
  margin-left: auto;
}
.name {
  width: 180px;
  margin-left: auto;
}
</style>
