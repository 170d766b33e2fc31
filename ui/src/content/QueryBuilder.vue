<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref, shallowRef, watch } from 'vue'
import { api, take, type Problem, type Schemas } from '@/shared/api/client'
import QueryGroup, { type Form } from './QueryGroup.vue'

/** The same query as in the search field, as rows. Whichever of the two is changed, the other follows. */
const query = defineModel<string>({ required: true })
const form = shallowRef<Form>({ anyOf: false, rows: [] })
const sortBy = ref('')
const problem = ref<string | null>(null)
const indexes = useQuery({
  queryKey: ['query-indexes'],
  queryFn: () => take(api.GET('/api/query/indexes')),
  staleTime: Infinity,
})

let written = ''
async function read(text: string) {
  if (text === written) return
  const reading = await take(api.POST('/api/query/reading', { body: { text } })).catch(() => null)
  if (text !== query.value || !reading?.form) return
  form.value = reading.form
  sortBy.value = reading.sortBy
  problem.value = null
}
watch(query, (text) => void read(text), { immediate: true })

async function change(next: Form) {
  form.value = next
  let reading: Schemas['QueryReading']
  try {
    reading = await take(api.POST('/api/query/writing', { body: { form: withoutEmpty(next), sortBy: sortBy.value } }))
  } catch (e) {
    problem.value = (e as Problem).message
    return
  }
  if (form.value !== next) return
  problem.value = reading.mistake?.sentence.replace(/^At character \d+: /, '') ?? null
  if (!reading.mistake) query.value = written = reading.text
}

/** A row whose value is not written yet asks nothing. */
function withoutEmpty(group: Form): Form {
  const filled = group.rows.filter((r) =>
    r.test ? r.test.term.trim() : r.near ? r.near.first.trim() && r.near.second.trim() : true,
  )
  const rows = filled
    .map((r) => (r.group ? { ...r, group: withoutEmpty(r.group) } : r))
    .filter((r) => !r.group || r.group.rows.length)
  return { ...group, rows }
}
</script>

<template>
  <section class="builder" aria-label="Query as rows">
    <QueryGroup v-if="indexes.data.value" :form="form" :indexes="indexes.data.value" @change="change" />
    <p v-if="problem" class="problem" role="alert">{{ problem[0]!.toUpperCase() + problem.slice(1) }}</p>
  </section>
</template>

<style scoped>
.builder {
  padding: 10px 16px 12px;
  background: var(--sheet-2);
  border-bottom: 1px solid var(--line);
  max-height: 46vh;
  overflow: auto;
}
</style>
