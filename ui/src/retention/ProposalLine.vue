<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { moment } from '@/shared/format'
import { may } from '@/shared/session'
import WhyDialog from '@/shared/WhyDialog.vue'

/** Something that one person asked for and another must agree to. */
const { proposal } = defineProps<{ proposal: Schemas['ProposalView'] }>()
const { act, busy, problem } = useAct(['proposals', 'schedule'], { refused: () => detail.refetch() })
const deciding = ref<boolean | null>(null)
const detail = useQuery({
  queryKey: computed(() => ['proposals', proposal.id]),
  queryFn: () => take(api.GET('/api/proposals/{id}', { params: { path: { id: proposal.id } } })),
  enabled: computed(() => deciding.value !== null),
  gcTime: 0,
  retry: false,
})
const difference = computed(() => detail.data.value?.difference ?? null)
const ready = computed(
  () => !deciding.value || (!!detail.data.value && !detail.isFetching.value && difference.value === null),
)
const open = (agree: boolean) => ((problem.value = null), (deciding.value = agree))

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
        ><el-button type="primary" @click="open(true)">Review …</el-button
        ><el-button @click="open(false)">Decline …</el-button></template
      >
      <template v-else
        ><span class="small quiet">{{ proposal.mayNotDecide }}</span
        ><el-button size="small" @click="open(false)">{{
          proposal.overtaken ? 'Close it …' : 'Withdraw …'
        }}</el-button></template
      >
    </span>
    <WhyDialog
      v-if="deciding !== null"
      :title="deciding ? 'Approve' : 'Decline'"
      :says="deciding ? 'Approve' : 'Decline'"
      :danger="deciding"
      :busy="busy"
      :ready="ready"
      :problem="problem"
      :width="deciding ? 760 : 480"
      @go="decide"
      @close="deciding = null"
    >
      <p>{{ proposal.title }}</p>
      <template v-if="deciding">
        <p v-if="detail.error.value" class="problem" role="alert">{{ detail.error.value.message }}</p>
        <table v-if="detail.data.value?.parts.length" class="sheet parts">
          <thead>
            <tr>
              <th>What</th>
              <th>Now</th>
              <th>Then</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in detail.data.value.parts" :key="p.name" :class="{ same: p.before === p.after }">
              <td>{{ p.name }}</td>
              <td>{{ p.before ?? '–' }}</td>
              <td>{{ p.after ?? '–' }}</td>
            </tr>
          </tbody>
        </table>
        <Consequences
          v-if="detail.data.value?.consequences || detail.isFetching.value"
          :view="detail.data.value?.consequences ?? undefined"
          :loading="detail.isFetching.value"
          of="proposal"
          :load="
            may('readContent')
              ? (group) =>
                  take(
                    api.GET('/api/proposals/{id}/consequences/{group}', {
                      params: { path: { id: proposal.id, group } },
                    }),
                  )
              : undefined
          "
        />
        <p v-if="difference" class="problem" role="alert">
          The consequences have changed since {{ proposal.askedBy }} asked: {{ difference }}. Decline, so that
          {{ proposal.askedBy }} can ask again.
        </p>
      </template>
    </WhyDialog>
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
.parts {
  margin: 10px 0 14px;
}
.parts td {
  overflow-wrap: anywhere;
}
.same td {
  color: var(--ink-2);
}
</style>
