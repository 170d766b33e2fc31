<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, moment } from '@/shared/format'
import { may, person, today } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import OfferChoice from './OfferChoice.vue'
import { requestWords } from './words'

/** One request: what is offered for it, what was said, and what each side may do next. */
const { audit, request } = defineProps<{ audit: Schemas['AuditView']; request: Schemas['RequestView'] }>()
const { act, busy, problem } = useAct(['readiness'])
const path = computed(() => ({ params: { path: { id: audit.id, number: request.number } } }))
const words = ref('')
const choosing = ref(false)
const outside = ref<Schemas['CandidateView'][]>([])
async function offer(proofs: number[] | null = null) {
  await act(async () => {
    const done = await take(api.POST('/api/audits/{id}/requests/{number}/offer', { ...path.value, body: { proofs } }))
    outside.value = done.outside
  })
}
const withdraw = (proof: number) =>
  act(() =>
    take(
      api.POST('/api/audits/{id}/requests/{number}/offers/{proof}/withdrawal', {
        params: { path: { ...path.value.params.path, proof } },
        body: { reason: words.value },
      }),
    ),
  )
const mayBring = computed(() => may('manageReadiness') || request.owner === person.value?.mail)
const answer = async (state: Schemas['RequestState']) => {
  if (
    await act(() =>
      take(
        api.POST('/api/audits/{id}/requests/{number}/state', { ...path.value, body: { state, remark: words.value } }),
      ),
    )
  )
    words.value = ''
}
const remark = async () => {
  if (
    await act(() =>
      take(api.POST('/api/audits/{id}/requests/{number}/remarks', { ...path.value, body: { text: words.value } })),
    )
  )
    words.value = ''
}
const opened = ref<number | null>(null)
const shown = ref(30)
const proof = useQuery({
  queryKey: computed(() => ['audits', 'proof', audit.id, opened.value]),
  queryFn: () =>
    take(api.GET('/api/audits/{id}/proofs/{proof}', { params: { path: { id: audit.id, proof: opened.value! } } })),
  enabled: computed(() => opened.value !== null),
})
const open = computed(() => !audit.closedAt)
const late = computed(() => request.due < today.value && request.state !== 'accepted')
</script>

<template>
  <section class="panel block" :aria-label="`Request ${request.number}`">
    <p>
      <strong>{{ request.number }}. {{ request.what }}</strong>
      <span class="state" :class="{ lacking: request.state === 'returned', settled: request.state === 'accepted' }">{{
        requestWords[request.state]
      }}</span>
    </p>
    <p class="small quiet">
      {{ request.requirement }}<template v-if="request.owner"> · {{ request.owner }}</template> ·
      <span :class="{ lacking: late }">due {{ day(request.due) }}</span>
    </p>
    <table v-if="request.offered.length" class="sheet">
      <tbody>
        <tr v-for="o in request.offered" :key="o.id">
          <td>
            <strong>{{ o.control }}</strong> {{ o.title }}
          </td>
          <td class="small">
            {{ o.proof.says }} <span class="quiet">{{ day(o.proof.day) }}</span>
            <span v-if="o.outside" class="lacking"> ▲ outside the period</span>
          </td>
          <td class="small do">
            <a v-if="o.proof.fileName" :href="`/api/audits/${audit.id}/proofs/${o.id}/file`" download>{{
              o.proof.fileName
            }}</a>
            <button v-else class="link" @click="opened = opened === o.id ? null : o.id">
              {{ opened === o.id ? 'Fold' : 'Look' }}
            </button>
            <button
              v-if="open && mayBring && request.state !== 'accepted'"
              class="link"
              :disabled="busy || !words.trim()"
              :title="words.trim() ? 'Withdraw with the reason below' : 'Write the reason below first'"
              @click="withdraw(o.id)"
            >
              Withdraw
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <ul v-if="opened && proof.data.value" class="small">
      <li v-for="f in proof.data.value.facts.slice(0, shown)" :key="f.id">
        {{ f.right ? '✓' : '▲' }} {{ f.name }}: {{ f.why }}
      </li>
      <li v-if="proof.data.value.facts.length === 0">{{ proof.data.value.proof.says }}</li>
    </ul>
    <ShowMore v-if="opened" v-model="shown" :of="proof.data.value?.facts.length ?? 0" />
    <p v-for="(m, i) in request.remarks" :key="i" class="small remark">
      <strong>{{ m.by }}</strong>, {{ moment(m.at) }}: {{ m.text }}
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <div v-if="open" class="acts">
      <el-input
        v-model="words"
        size="small"
        placeholder="Comment"
        :aria-label="`Remark on request ${request.number}`"
      />
      <el-button size="small" :disabled="!words.trim()" :loading="busy" @click="remark">Add comment</el-button>
      <template v-if="mayBring && request.state !== 'accepted'">
        <el-button v-if="request.requirement" size="small" :loading="busy" @click="offer()"
          >Submit evidence from controls</el-button
        >
        <el-button size="small" @click="choosing = !choosing">Select evidence</el-button>
        <el-button
          v-if="request.state !== 'ready' && request.offered.length"
          size="small"
          type="primary"
          :loading="busy"
          @click="answer('ready')"
          >Ready for review</el-button
        >
      </template>
      <el-button
        v-if="audit.mine && request.state === 'accepted'"
        size="small"
        :disabled="!words.trim()"
        :loading="busy"
        @click="answer('returned')"
        >Return with comment</el-button
      >
      <template v-if="audit.mine && request.state === 'ready'">
        <el-button size="small" type="primary" :loading="busy" @click="answer('accepted')">Accept</el-button>
        <el-button size="small" :loading="busy" @click="answer('returned')">Return with comment</el-button>
      </template>
    </div>
    <p v-if="outside.length" class="small">
      Not submitted, outside the audit period: {{ outside.map((o) => `${o.control} ${o.title}`).join(', ') }}.
      <button class="link" :disabled="busy" @click="offer(outside.map((o) => o.id))">Submit anyway</button>
    </p>
    <OfferChoice v-if="choosing && open" :audit="audit.id" :number="request.number" @done="choosing = false" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
}
p,
ul {
  margin: 0;
}
.state {
  float: right;
}
.settled {
  color: var(--sea);
}
.remark {
  border-left: 2px solid var(--line-2);
  padding-left: 8px;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.acts .el-input {
  flex: 1 1 240px;
}
.acts .el-button {
  margin: 0;
}
.do {
  text-align: right;
  white-space: nowrap;
}
.do > * + * {
  margin-left: 10px;
}
</style>
