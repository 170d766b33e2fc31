<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { today } from '@/shared/session'

/** The plan of an audit: its framework, its auditor, the period that is looked at, and when the room is open. */
const { audit } = defineProps<{ audit?: Schemas['AuditView'] }>()
const emit = defineEmits<{ kept: []; left: [] }>()
const overview = useQuery({ queryKey: ['readiness'], queryFn: () => take(api.GET('/api/readiness')), enabled: !audit })
const form = reactive<Schemas['AuditSettings']>({
  name: '',
  framework: '',
  auditor: '',
  periodFrom: today.value,
  periodThrough: today.value,
  startsOn: today.value,
  endsOn: today.value,
  ...audit?.settings,
})
const { act, busy, problem } = useAct(['readiness'])
async function save() {
  const body = { ...form }
  const done = await act(() =>
    audit
      ? take(api.PUT('/api/audits/{id}', { params: { path: { id: audit.id } }, ...ifMatch(audit.revision), body }))
      : take(api.POST('/api/audits', { body })),
  )
  if (done) emit('kept')
}
</script>

<template>
  <form class="panel block grid" @submit.prevent="save">
    <label class="label" for="a-name">Name</label><el-input id="a-name" v-model="form.name" size="small" />
    <template v-if="!audit"
      ><span class="label">Framework</span
      ><el-select v-model="form.framework" size="small" aria-label="Framework"
        ><el-option v-for="f in overview.data.value?.frameworks ?? []" :key="f.code" :value="f.code" :label="f.title"
      /></el-select>
    </template>
    <label class="label" for="a-auditor">Auditor’s account</label
    ><el-input id="a-auditor" v-model="form.auditor" size="small" placeholder="mail address" />
    <span class="label">Period</span
    ><span
      ><input v-model="form.periodFrom" type="date" aria-label="Period from" />
      <input v-model="form.periodThrough" type="date" aria-label="Period through"
    /></span>
    <span class="label">Room open</span
    ><span
      ><input v-model="form.startsOn" type="date" aria-label="Open from" />
      <input v-model="form.endsOn" type="date" aria-label="Open until"
    /></span>
    <span /><span
      ><el-button type="primary" size="small" native-type="submit" :loading="busy">{{
        audit ? 'Keep it' : 'Plan it'
      }}</el-button>
      <button type="button" class="link" @click="emit('left')">Leave it</button></span
    >
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
.wide {
  grid-column: 1 / -1;
}
</style>
