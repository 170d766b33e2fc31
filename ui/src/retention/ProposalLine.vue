<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'

/** Something that one person asked for and another must agree to. */
const { proposal } = defineProps<{ proposal: Schemas['ProposalView'] }>()
const { act, busy, problem } = useAct(['proposals', 'schedule'])
const deciding = ref<boolean | null>(null)
async function decide(why: string) {
  const done = await act(() =>
    take(
      api.POST('/api/proposals/{id}/decision', {
        params: { path: { id: proposal.id } },
        ...ifMatch(proposal.revision),
        body: { agree: deciding.value!, why },
      }),
    ),
  )
  if (done) deciding.value = null
}
</script>

<template>
  <li class="proposal">
    <div>
      <strong>{{ proposal.title }}</strong>
      <p class="small quiet">Asked by {{ proposal.askedBy }}, {{ moment(proposal.askedAt) }}: “{{ proposal.why }}”</p>
    </div>
    <span class="acts">
      <template v-if="!proposal.mayNotDecide"
        ><el-button type="primary" @click="((problem = null), (deciding = true))">Agree …</el-button
        ><el-button @click="((problem = null), (deciding = false))">Decline …</el-button></template
      >
      <template v-else
        ><span class="small quiet">{{ proposal.mayNotDecide }}</span
        ><el-button size="small" @click="((problem = null), (deciding = false))">Take it back …</el-button></template
      >
    </span>
    <WhyDialog
      v-if="deciding !== null"
      :title="deciding ? 'Agree' : 'Decline'"
      :says="deciding ? 'Agree, and do it' : 'Decline it'"
      :danger="deciding"
      :busy="busy"
      :problem="problem"
      @go="decide"
      @close="deciding = null"
      ><p>{{ proposal.title }}</p></WhyDialog
    >
  </li>
</template>

<style scoped>
.proposal {
  display: flex;
  gap: 20px;
  align-items: center;
  padding: 12px 18px;
  border-bottom: 1px solid var(--line);
}
.proposal p {
  margin: 2px 0 0;
}
.acts {
  margin-left: auto;
  display: flex;
  gap: 8px;
  align-items: center;
  flex: none;
}
.acts .el-button {
  margin: 0;
}
</style>
