<script setup lang="ts">
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'
import AttachedInvestigations from '@/shared/AttachedInvestigations.vue'
import { may, today } from '@/shared/session'

/** Findings with their actions. */
const { audit, mayFind } = defineProps<{ audit: Schemas['AuditView']; mayFind: boolean }>()
const { act, busy, problem } = useAct(['readiness'])
const form = reactive({ title: '', severity: 'minor', control: '', action: '', owner: '', due: today.value })
async function find() {
  if (
    await act(() =>
      take(
        api.POST('/api/audits/{id}/findings', { params: { path: { id: audit.id } }, body: { ...form, done: false } }),
      ),
    )
  )
    form.title = ''
}
const done = (f: Schemas['FindingView']) =>
  act(() =>
    take(
      api.PUT('/api/audits/{id}/findings/{finding}', {
        params: { path: { id: audit.id, finding: f.id } },
        body: {
          title: f.title,
          severity: f.severity,
          control: f.control,
          action: f.action,
          owner: f.owner,
          due: f.due ?? null,
          done: !f.doneOn,
        },
      }),
    ),
  )
const attach = (finding: number, investigationId: number) =>
  act(() =>
    take(
      api.POST('/api/audits/{id}/findings/{finding}/investigations', {
        params: { path: { id: audit.id, finding } },
        body: { investigationId },
      }),
    ),
  )
</script>

<template>
  <table v-if="audit.findings.length" class="sheet">
    <thead>
      <tr>
        <th>Finding</th>
        <th>Severity</th>
        <th>Action</th>
        <th>Due</th>
        <th><span class="sr">Act</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="f in audit.findings" :key="f.id">
        <td>
          <strong>{{ f.title }}</strong>{{ ' '
          }}<RouterLink
            v-if="f.control && may('readReadiness')"
            class="small"
            :to="`/readiness/controls?code=${f.control}`"
            >{{ f.control }}</RouterLink
          >
          <AttachedInvestigations
            :attached="f.investigations"
            frozen-only
            :busy="busy"
            :closed="!!audit.closedAt || !may('manageReadiness')"
            :file="(i) => `/api/audits/${audit.id}/findings/${f.id}/investigations/${i}/file`"
            @attach="attach(f.id, $event)"
          />
        </td>
        <td>{{ f.severity }}</td>
        <td class="small">
          {{ f.action }} <span class="quiet">{{ f.owner }}</span>
        </td>
        <td>{{ f.doneOn ? `✓ ${day(f.doneOn)}` : f.due ? day(f.due) : '–' }}</td>
        <td class="small">
          <button v-if="may('manageReadiness')" class="link" :disabled="busy" @click="done(f)">
            {{ f.doneOn ? 'Open again' : 'Done' }}
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-else class="quiet">Nothing was found yet.</p>
  <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  <form v-if="mayFind" class="panel block grid" @submit.prevent="find">
    <el-input v-model="form.title" size="small" placeholder="What was found" aria-label="What was found" />
    <el-select v-model="form.severity" size="small" aria-label="Severity"
      ><el-option v-for="s in ['observation', 'minor', 'major']" :key="s" :value="s" :label="s"
    /></el-select>
    <el-input v-model="form.control" size="small" placeholder="control" aria-label="Control" />
    <el-input v-model="form.action" size="small" placeholder="action" aria-label="Action" />
    <el-input v-model="form.owner" size="small" placeholder="who does it" aria-label="Who does it" />
    <input v-model="form.due" type="date" aria-label="Due" />
    <el-button type="primary" size="small" native-type="submit" :loading="busy">Write it down</el-button>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 8px;
}
</style>
