<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import AttachedInvestigations from '@/shared/AttachedInvestigations.vue'
import { day, moment } from '@/shared/format'
import { may } from '@/shared/session'
import FindingAnswer from './FindingAnswer.vue'
import FindingWords from './FindingWords.vue'

/** One finding: the auditor's words, the organisation's answer, the verification, and the history of both. */
type Finding = Schemas['FindingView']
const { audit, finding } = defineProps<{ audit: Schemas['AuditView']; finding: Finding }>()
const { act, busy, problem } = useAct(['readiness'])
const editing = ref<'' | 'words' | 'answer'>('')
const remark = ref('')
const path = { params: { path: { id: audit.id, finding: finding.id } } }
async function verify(verified: boolean) {
  const body = { verified, remark: remark.value }
  if (await act(() => take(api.POST('/api/audits/{id}/findings/{finding}/verification', { ...path, body }))))
    remark.value = ''
}
const attach = (investigationId: number) =>
  act(() =>
    take(api.POST('/api/audits/{id}/findings/{finding}/investigations', { ...path, body: { investigationId } })),
  )
const settled = computed(() =>
  [finding.owner, finding.due && `due ${day(finding.due)}`, finding.doneOn && `done ${day(finding.doneOn)}`].filter(
    Boolean,
  ),
)
const state = (f: Finding) =>
  f.verifiedAt ? `✓ verified by ${f.verifiedBy}` : f.doneOn ? 'done, to be verified' : f.response ? 'answered' : 'open'
</script>

<template>
  <section class="panel block" :aria-label="finding.title">
    <p>
      <strong>{{ finding.title }}</strong>
      <span class="state" :class="{ settled: finding.verifiedAt, lacking: !finding.response && !finding.doneOn }">{{
        state(finding)
      }}</span>
    </p>
    <p class="small quiet">
      {{ finding.severity
      }}<template v-if="finding.control">
        ·
        <RouterLink v-if="may('readReadiness')" :to="`/readiness/controls?code=${finding.control}`">{{
          finding.control
        }}</RouterLink><template v-else>{{ finding.control }}</template></template
      >
      · found by {{ finding.foundBy }}
    </p>
    <p v-if="finding.response || finding.action" class="small">
      {{ finding.response }} <strong v-if="finding.action">{{ finding.action }}</strong>
      <span class="quiet">{{ settled.join(', ') }}</span>
    </p>
    <AttachedInvestigations
      :attached="finding.investigations"
      frozen-only
      :busy="busy"
      :closed="!!audit.closedAt || !may('manageReadiness')"
      :file="(i) => `/api/audits/${audit.id}/findings/${finding.id}/investigations/${i}/file`"
      @attach="attach"
    />
    <details v-if="finding.changes.length" class="small">
      <summary>History ({{ finding.changes.length }})</summary>
      <p v-for="(c, i) in finding.changes" :key="i">
        <span class="quiet">{{ moment(c.at) }} {{ c.by }}</span> {{ c.field }}: {{ c.before || '–' }} →
        {{ c.after || '–' }}
      </p>
    </details>
    <FindingWords v-if="editing === 'words'" :audit="audit.id" :finding="finding" @done="editing = ''" />
    <FindingAnswer
      v-else-if="editing === 'answer'"
      :audit="audit.id"
      :finding="finding.id"
      :was="finding"
      @done="editing = ''"
    />
    <p v-else-if="!audit.closedAt && !finding.verifiedAt" class="acts-row small">
      <button v-if="finding.mayWord" class="link" @click="editing = 'words'">Edit</button>
      <button v-if="may('manageReadiness')" class="link" @click="editing = 'answer'">Respond</button>
      <template v-if="finding.mayVerify">
        <el-input
          v-model="remark"
          size="small"
          class="remark"
          placeholder="Remark"
          aria-label="Remark on the finding"
        />
        <el-button size="small" type="primary" :loading="busy" @click="verify(true)">Verify and close</el-button>
        <el-button size="small" :disabled="!remark.trim()" :loading="busy" @click="verify(false)">Return</el-button>
      </template>
    </p>
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
.state {
  float: right;
}
.settled {
  color: var(--sea);
}
.remark {
  width: 260px;
}
</style>
