<script setup lang="ts">
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, moment } from '@/shared/format'
import { may } from '@/shared/session'

/** Populations that the organisation opened to the audit, and one more to open. */
const { audit, measures } = defineProps<{
  audit: Schemas['AuditView']
  measures: readonly { name: string; title: string }[]
}>()
const form = reactive({ title: '', measure: '' })
const { act, busy, problem } = useAct(['readiness'])
async function open() {
  const title = form.title.trim() || measures.find((m) => m.name === form.measure)?.title || ''
  const body = { title, measure: form.measure, population: null }
  if (await act(() => take(api.POST('/api/audits/{id}/populations', { params: { path: { id: audit.id } }, body }))))
    Object.assign(form, { title: '', measure: '' })
}
</script>

<template>
  <section v-if="audit.populations.length || may('manageReadiness')" class="panel block" aria-label="Populations">
    <p>
      <strong>Populations opened to the audit</strong>
      <span class="small quiet"> The auditor samples these, or a list of their own.</span>
    </p>
    <p v-for="p in audit.populations" :key="p.id" class="small">
      {{ p.title }}: {{ count(p.size) }}
      <span class="quiet">opened {{ moment(p.openedAt) }} by {{ p.openedBy }}, SHA-256 {{ p.hash.slice(0, 16) }}…</span>
    </p>
    <form v-if="may('manageReadiness') && !audit.closedAt" class="acts-row" @submit.prevent="open">
      <el-select v-model="form.measure" size="small" filterable placeholder="Measure" aria-label="Measure to open"
        ><el-option v-for="m in measures" :key="m.name" :value="m.name" :label="m.title"
      /></el-select>
      <el-input v-model="form.title" size="small" placeholder="Title" aria-label="Title of the population" />
      <el-button size="small" native-type="submit" :disabled="!form.measure" :loading="busy">Open</el-button>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
.el-select,
.el-input {
  width: 260px;
}
</style>
