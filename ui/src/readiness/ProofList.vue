<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, moment } from '@/shared/format'

/** The proofs of a part, the latest first: what each covers, who reviewed it, and what became of it. */
const { part } = defineProps<{ part: Schemas['PartView'] }>()
const { act, busy, problem } = useAct(['readiness'])
type Proof = Schemas['ProofView']
const path = (p: Proof) => ({ params: { path: { id: p.id } } })
const review = (p: Proof) => act(() => take(api.POST('/api/proofs/{id}/review', path(p))))
const withdrawing = ref<number | null>(null)
const reason = ref('')
async function withdraw(p: Proof) {
  const done = await act(() =>
    take(api.POST('/api/proofs/{id}/withdrawal', { ...path(p), body: { reason: reason.value } })),
  )
  if (!done) return
  withdrawing.value = null
  reason.value = ''
}
const awaits = (p: Proof) => part.needsReview && !p.reviewedBy && !p.withdrawnWhy
</script>

<template>
  <ul class="small proofs" aria-label="Proofs">
    <li v-for="p in part.proofs" :key="p.id">
      <span :class="{ struck: p.withdrawnWhy }"
        >{{ part.kind === 'routine' ? `due ${day(p.day)}` : day(p.day) }}: {{ p.says }}</span
      >
      <span v-if="p.coversFrom && p.coversThrough" class="quiet">
        covers {{ day(p.coversFrom) }} to {{ day(p.coversThrough) }}</span
      >
      <span v-if="p.broken" class="lacking"> ▲ its file is missing or was changed</span>
      <span v-if="p.reviewedBy" class="quiet"> ✓ approved by {{ p.reviewedBy }}</span>
      <span v-else-if="awaits(p)" class="lacking"> ◐ awaits approval</span>
      <em v-if="p.withdrawnWhy"> withdrawn by {{ p.withdrawnBy }}: “{{ p.withdrawnWhy }}”</em>
      <span class="quiet"> {{ moment(p.at) }}</span>
      <a v-if="p.fileName && !p.broken" :href="`/api/proofs/${p.id}/file`" download>{{ p.fileName }}</a>
      <button v-if="part.toApprove === p.id" class="link" :disabled="busy" @click="review(p)">Approve</button>
      <button
        v-if="part.mayBring && part.kind !== 'test' && !p.withdrawnWhy"
        class="link"
        @click="withdrawing = withdrawing === p.id ? null : p.id"
      >
        Withdraw
      </button>
      <form v-if="withdrawing === p.id" class="acts-row" novalidate @submit.prevent="withdraw(p)">
        <el-input v-model="reason" size="small" placeholder="Reason" aria-label="Reason" />
        <el-button size="small" type="primary" native-type="submit" :loading="busy">Withdraw</el-button>
      </form>
    </li>
  </ul>
  <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
</template>

<style scoped>
.proofs {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 4px;
}
.struck {
  text-decoration: line-through;
}
.link,
a {
  margin-left: 8px;
}
</style>
