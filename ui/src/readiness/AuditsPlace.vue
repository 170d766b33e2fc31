<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { day } from '@/shared/format'
import { may, today } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import AuditRoom from './AuditRoom.vue'

const { number } = useUrl()
const open = number('audit')
const { data, error } = useQuery({ queryKey: ['audits'], queryFn: () => take(api.GET('/api/audits')) })
const shown = computed(() => data.value?.find((a) => a.id === open.value))
const making = ref(false)
const overview = useQuery({
  queryKey: ['readiness'],
  queryFn: () => take(api.GET('/api/readiness')),
  enabled: making,
})
const form = reactive({
  name: '',
  framework: '',
  auditor: '',
  periodFrom: today.value,
  periodThrough: today.value,
  startsOn: today.value,
  endsOn: today.value,
})
const { act, busy, problem } = useAct(['readiness'])
async function make() {
  if (await act(() => take(api.POST('/api/audits', { body: { ...form } })))) making.value = false
}
const left = (iso: string) => Math.round((Date.parse(iso) - Date.parse(today.value)) / 86_400_000)
</script>

<template>
  <Workbench name="audits" :subject="!!shown" :list-width="380">
    <template #list>
      <div class="page">
        <header>
          <h1>Audits</h1>
          <el-button v-if="may('manageReadiness')" size="small" type="primary" class="right" @click="making = !making"
            >Plan an audit</el-button
          >
        </header>
        <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
        <form v-if="making" class="panel block grid" @submit.prevent="make">
          <label class="label" for="a-name">Name</label><el-input id="a-name" v-model="form.name" size="small" />
          <span class="label">Framework</span
          ><el-select v-model="form.framework" size="small" aria-label="Framework"
            ><el-option
              v-for="f in overview.data.value?.frameworks ?? []"
              :key="f.code"
              :value="f.code"
              :label="f.title"
          /></el-select>
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
          <span /><el-button type="primary" size="small" native-type="submit" :loading="busy">Plan it</el-button>
        </form>
        <p v-if="data?.length === 0 && !making" class="quiet">No audit is planned.</p>
        <button
          v-for="a in data ?? []"
          :key="a.id"
          class="panel entry"
          :aria-current="a.id === open"
          @click="open = a.id"
        >
          <strong>{{ a.settings.name }}</strong>
          <span class="small quiet">{{ a.frameworkTitle }}</span>
          <span class="small"
            >{{ day(a.settings.startsOn) }} to {{ day(a.settings.endsOn) }}
            <template v-if="a.closedAt">· closed</template
            ><template v-else-if="left(a.settings.startsOn) > 0"
              >· <span class="lacking">in {{ left(a.settings.startsOn) }} days</span></template
            ><template v-else>· running</template>
          </span>
          <span class="small"
            >{{ a.requests.filter((r) => r.state === 'accepted').length }} of {{ a.requests.length }} requests
            accepted<template v-if="a.findings.length">, {{ a.findings.length }} findings</template></span
          >
        </button>
      </div>
    </template>
    <template #subject><AuditRoom v-if="shown" :key="shown.id" :audit="shown" /></template>
  </Workbench>
</template>

<style scoped>
.page {
  padding: 14px 16px;
  display: grid;
  gap: 10px;
}
header {
  display: flex;
  align-items: baseline;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.grid {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
}
.entry {
  display: grid;
  gap: 2px;
  padding: 10px 12px;
  text-align: left;
  color: var(--ink);
  cursor: pointer;
}
.entry:hover,
.entry[aria-current='true'] {
  background: var(--sea-wash);
}
</style>
