<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'
import { useAct } from '@/shared/act'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import AuditFindings from './AuditFindings.vue'
import AuditForm from './AuditForm.vue'
import AuditRequestLine from './AuditRequestLine.vue'
import AuditSamples from './AuditSamples.vue'

/** The room of one audit: what was asked for, what is offered, samples, findings; the same for both sides. */
const { audit } = defineProps<{ audit: Schemas['AuditView'] }>()
// To open the room is a look that the ledger notes for the auditor.
useQuery({
  queryKey: ['audits', 'room', audit.id],
  queryFn: () => take(api.GET('/api/audits/{id}', { params: { path: { id: audit.id } } })),
  staleTime: Infinity,
})
const { act, busy, problem } = useAct(['readiness'])
const path = computed(() => ({ params: { path: { id: audit.id } } }))
const { text } = useUrl()
/** In the address, so that what waits leads to its own. */
const tab = computed({
  get: () => text('tab').value || 'requests',
  set: (t: string) => (text('tab').value = t),
})
const changing = ref(false)
const what = ref('')
const requirement = ref('')
const owner = ref('')
const due = ref(audit.settings.startsOn)
async function ask() {
  if (
    await act(() =>
      take(
        api.POST('/api/audits/{id}/requests', {
          ...path.value,
          body: { what: what.value, requirement: requirement.value.trim(), owner: owner.value, due: due.value },
        }),
      ),
    )
  )
    what.value = ''
}
const close = () => act(() => take(api.POST('/api/audits/{id}/closing', path.value)))
const mayAsk = computed(() => !audit.closedAt && (audit.mine || may('manageReadiness')))
</script>

<template>
  <article class="room">
    <h1>{{ audit.settings.name }}</h1>
    <p class="small quiet">
      {{ audit.frameworkTitle }} · period {{ day(audit.settings.periodFrom) }} to
      {{ day(audit.settings.periodThrough) }} · room open {{ day(audit.settings.startsOn) }} to
      {{ day(audit.settings.endsOn) }} · auditor {{ audit.settings.auditor || 'not invited yet'
      }}{{ audit.closedAt ? ' · closed' : '' }}
    </p>
    <p class="acts-row">
      <el-radio-group v-model="tab" size="small" aria-label="What to show"
        ><el-radio-button value="requests">Requests ({{ audit.requests.length }})</el-radio-button
        ><el-radio-button value="samples">Samples ({{ audit.samples.length }})</el-radio-button
        ><el-radio-button value="findings">Findings ({{ audit.findings.length }})</el-radio-button></el-radio-group
      >
      <a :href="`/api/audits/${audit.id}/room.zip`" download>The whole room (ZIP, with OSCAL)</a>
      <button v-if="may('manageReadiness') && !audit.closedAt" class="link right" @click="changing = !changing">
        Edit the plan
      </button>
      <button v-if="may('manageReadiness') && !audit.closedAt" class="link" :disabled="busy" @click="close">
        Close the audit
      </button>
    </p>
    <AuditForm v-if="changing" :audit="audit" @kept="changing = false" @left="changing = false" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template v-if="tab === 'requests'">
      <AuditRequestLine v-for="r in audit.requests" :key="r.id" :audit="audit" :request="r" />
      <form v-if="mayAsk" class="panel block ask" @submit.prevent="ask">
        <el-input v-model="what" size="small" placeholder="What is asked for" aria-label="What is asked for" />
        <el-input v-model="requirement" size="small" placeholder="Requirement, such as au-9" aria-label="Requirement" />
        <el-input v-model="owner" size="small" placeholder="Owner’s mail address" aria-label="Who brings it" />
        <input v-model="due" type="date" aria-label="Due" />
        <el-button size="small" type="primary" native-type="submit" :loading="busy">Add the request</el-button>
      </form>
    </template>
    <AuditSamples v-else-if="tab === 'samples'" :audit="audit" :may-draw="mayAsk" />
    <AuditFindings v-else :audit="audit" :may-find="mayAsk" />
  </article>
</template>

<style scoped>
.room {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
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
.ask {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: center;
}
.ask .el-input {
  flex: 1 1 180px;
}
</style>
