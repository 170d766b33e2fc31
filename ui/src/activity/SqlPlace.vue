<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { saveAs } from '@/shared/save'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { keepTyped } from '@/shared/typed'
import { useUrl } from '@/shared/url'
import { spanOf, useSpan } from './span'
import SpanPicker from './SpanPicker.vue'
import SqlAnswer from './SqlAnswer.vue'
import SqlCatalogue from './SqlCatalogue.vue'
import SqlEditor from './SqlEditor.vue'
import StatementFields from './StatementFields.vue'
import StatementSchedule from './StatementSchedule.vue'

const { text } = useUrl()
const { days } = useSpan('90')
const form = reactive({
  sql: 'SELECT action, count(*) AS events\nFROM events\nGROUP BY action\nORDER BY events DESC',
  name: '',
  parameters: [] as Schemas['StatementParameter'][],
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
/** The parameters that the statement names beside those of the span get a field each; what was typed stays. */
watch(
  () => form.sql,
  (sql) => {
    const names = [...new Set([...sql.matchAll(/\$([A-Za-z_]\w*)/g)].map((m) => m[1]!))]
    form.parameters = names
      .filter((n) => n !== 'from' && n !== 'before')
      .map((name) => form.parameters.find((p) => p.name === name) ?? { name, type: 'text', value: '' })
  },
  { immediate: true },
)
/** A kept statement, while it stands in the editor unchanged. */
const kept = computed(() => catalogue.data.value?.own.find((o) => o.name === form.name && o.sql === form.sql))
function choose(statement: Schemas['ReadyStatement'] | Schemas['SavedStatementView']) {
  let over = days.value
  if ('parameters' in statement) {
    form.parameters = statement.parameters.map((p) => ({ ...p }))
    days.value = over = statement.days ? String(statement.days) : 'all'
  }
  Object.assign(form, { sql: statement.sql, name: statement.name })
  // The fields of its parameters are there first; the address follows later, so the span is handed over.
  void nextTick(() => run(over))
}
/** What is missing from the archive is left out only where somebody says so, of this statement. */
const withoutMissing = ref(false)
watch(
  () => form.sql,
  () => (withoutMissing.value = false),
)
const bodyOver = (over: string) => ({
  sql: form.sql,
  withoutMissing: withoutMissing.value,
  parameters: [
    { name: 'from', type: 'moment' as const, value: spanOf(over).from ?? '0001-01-01T00:00:00Z' },
    { name: 'before', type: 'moment' as const, value: spanOf(over).before ?? '9999-01-01T00:00:00Z' },
    ...form.parameters,
  ],
})
const run = (over = days.value) =>
  act(async () => {
    answer.value = null
    answer.value = await take(api.POST('/api/statements/answers', { body: bodyOver(over) }))
  })
const save = () =>
  saving.act(() =>
    take(
      api.POST('/api/statements', {
        body: {
          name: form.name.trim(),
          sql: form.sql,
          parameters: form.parameters,
          days: days.value === 'all' ? null : Number(days.value),
        },
      }),
    ),
  )
const download = () =>
  act(async () => {
    const file = await take(api.POST('/api/statements/answers.csv', { body: bodyOver(days.value), parseAs: 'blob' }))
    saveAs('answer.csv', file as unknown as Blob)
  })
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
      <SqlEditor v-model="form.sql" :catalogue="catalogue.data.value" :mistake="problem?.message" @run="run()" />
      <p class="acts-row">
        <el-button type="primary" :loading="busy" @click="run()">Ask</el-button>
        <span class="quiet small"
          >Ctrl Enter asks · <code>$from</code> and <code>$before</code> are the time chosen above</span
        >
        <el-input v-model="form.name" size="small" class="name" placeholder="Name" aria-label="Name of the statement" />
        <el-button size="small" :disabled="!form.name.trim()" :loading="saving.busy.value" @click="save"
          >Keep it</el-button
        >
        <button v-if="answer" class="link small" @click="download">Save as CSV</button>
      </p>
      <StatementFields v-if="form.parameters.length" v-model="form.parameters" />
      <StatementSchedule v-if="kept" :statement="kept" />
      <p v-if="problem" class="problem" role="alert">
        {{ problem.message }}
        <button v-if="problem.code === 'archive-incomplete'" class="link" @click="((withoutMissing = true), run())">
          Answer without them
        </button>
      </p>
      <p v-if="saving.problem.value" class="problem" role="alert">{{ saving.problem.value.message }}</p>
      <p v-if="answer" class="small quiet" role="status">
        {{ plural(answer.rows.length, 'row') }}{{ answer.cut ? ' shown; there are more' : '' }}, in
        {{ answer.seconds }} s{{ withoutMissing ? '; without what is missing from the archive' : '' }}
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
