<script setup lang="ts">
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'

/** What was found: its title, severity and control; a new finding where none is given. */
const { audit, finding } = defineProps<{ audit: number; finding?: Schemas['FindingView'] }>()
const emit = defineEmits<{ done: [] }>()
const empty = { title: '', severity: 'minor', control: '' }
const form = reactive(
  finding ? { title: finding.title, severity: finding.severity, control: finding.control } : { ...empty },
)
const { act, busy, problem } = useAct(['readiness'])
async function save() {
  const done = await act(() =>
    finding
      ? take(
          api.PUT('/api/audits/{id}/findings/{finding}', {
            params: { path: { id: audit, finding: finding.id } },
            body: { ...form },
          }),
        )
      : take(api.POST('/api/audits/{id}/findings', { params: { path: { id: audit } }, body: { ...form } })),
  )
  if (!done) return
  if (!finding) Object.assign(form, empty)
  emit('done')
}
</script>

<template>
  <form class="grid" :class="{ 'panel block': !finding }" @submit.prevent="save">
    <el-input v-model="form.title" size="small" placeholder="What was found" aria-label="What was found" />
    <el-select v-model="form.severity" size="small" aria-label="Severity"
      ><el-option v-for="s in ['observation', 'minor', 'major']" :key="s" :value="s" :label="s"
    /></el-select>
    <el-input v-model="form.control" size="small" placeholder="Control" aria-label="Control" />
    <span class="acts-row">
      <el-button type="primary" size="small" native-type="submit" :loading="busy">{{
        finding ? 'Save' : 'Add the finding'
      }}</el-button>
      <button v-if="finding" type="button" class="link" @click="emit('done')">Cancel</button>
    </span>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: minmax(180px, 1fr) 130px 130px auto;
  gap: 8px;
}
.problem {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
