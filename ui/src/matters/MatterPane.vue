<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import WhyDialog from '@/shared/WhyDialog.vue'
import BundlesTab from './BundlesTab.vue'
import CustodiansTab from './CustodiansTab.vue'
import MatterOverview from './MatterOverview.vue'
import MembersTab from './MembersTab.vue'
import NoticesTab from './NoticesTab.vue'
import OrdersTab from './OrdersTab.vue'
import SweepsTab from './SweepsTab.vue'
import { kindWords, matterStateWords } from './words'
import { matterQuery } from './own'

const { id } = defineProps<{ id: number }>()
const path = { params: { path: { id } } }
/** Something of it runs; declared first, because an answer that is there already is asked at once. */
const busyWith = (m: Schemas['MatterView']) =>
  m.orders.some((o) => o.applying) ||
  m.sweeps.some((s) => s.last?.state === 'waiting' || s.last?.state === 'running') ||
  m.bundles.some((b) => b.state === 'waiting' || b.state === 'running')
const { data, error } = useQuery({
  ...matterQuery(id),
  // What runs is looked at again until it is done.
  refetchInterval: (q) => (q.state.data && busyWith(q.state.data) ? 1200 : false),
})
const { text } = useUrl()
const tab = text('tab')
const tabs = computed(() => {
  const m = data.value!
  return [
    { key: '', label: 'Overview', count: null },
    { key: 'custodians', label: 'Custodians', count: m.custodians.length },
    { key: 'notices', label: 'Notices', count: m.notices.length },
    { key: 'sweeps', label: 'Sweeps', count: m.sweeps.length },
    { key: 'orders', label: 'Hold orders', count: m.orders.length },
    { key: 'bundles', label: 'Bundles', count: m.bundles.filter((b) => !b.deletedAt).length },
    { key: 'members', label: 'Members', count: m.members.length },
  ]
})
const { act, busy, problem, put } = useAct(['matters'])
const step = ref<Schemas['MatterState'] | 'agree' | null>(null)
const steps: Record<string, { title: string; says: string; text: string }> = {
  closing: {
    title: 'Begin closing',
    says: 'Begin closing',
    text: 'Nothing new is begun from now on. Its orders go on keeping what they keep until each is released.',
  },
  open: { title: 'Open it again', says: 'Open it again', text: 'Orders, sweeps and notices can be written again.' },
  closed: {
    title: 'Close the matter',
    says: 'Close it',
    text:
      'Every order is released and every delay has passed. What the matter found and handed over stays with it; ' +
      'it can be opened again.',
  },
  deleted: {
    title: 'Ask for its deletion',
    says: 'Ask for its deletion',
    text:
      'Once another lead agrees, its sweeps, notices, custodians, orders and bundles go for good. ' +
      'Its ledger and the certificates remain.',
  },
  agree: {
    title: 'Agree to its deletion',
    says: 'Delete it for good',
    text: 'Its sweeps, notices, custodians, orders and bundles go for good. Its ledger and the certificates remain.',
  },
}
async function go(why: string) {
  const to = step.value!
  const done = await act(async () => {
    const body = {
      state: to === 'agree' ? ('deleted' as const) : to,
      why,
      word: to === 'agree' || to === 'deleted' ? data.value!.number : null,
    }
    const after = await take(
      to === 'agree'
        ? api.POST('/api/matters/{id}/deletion', { ...path, body })
        : api.POST('/api/matters/{id}/state', { ...path, body }),
    )
    put(['matter', id], after)
  })
  if (done) step.value = null
}
const orders = computed(() => data.value?.orders.filter((o) => o.state === 'inForce') ?? [])
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <article v-else-if="data" class="matter">
    <header>
      <div>
        <p class="small quiet">
          {{ data.number }} · {{ kindWords[data.kind] }} · {{ data.unit }} ·
          <span :class="{ closing: data.state !== 'open' }">{{ matterStateWords[data.state] }}</span>
        </p>
        <h1>{{ data.name }}</h1>
      </div>
      <span v-if="data.part === 'lead' && data.state !== 'deleted'" class="acts">
        <el-button v-if="data.state === 'open'" size="small" @click="((problem = null), (step = 'closing'))"
          >Begin closing …</el-button
        >
        <template v-else-if="data.state === 'closing'"
          ><el-button size="small" @click="((problem = null), (step = 'open'))">Open again …</el-button
          ><el-button
            size="small"
            type="primary"
            :disabled="!!data.mayNotClose"
            :title="data.mayNotClose ?? undefined"
            @click="((problem = null), (step = 'closed'))"
            >Close …</el-button
          ></template
        >
        <template v-else
          ><el-button size="small" @click="((problem = null), (step = 'open'))">Open again …</el-button
          ><el-button size="small" @click="((problem = null), (step = 'deleted'))">Delete …</el-button></template
        >
      </span>
    </header>
    <p v-if="data.mayNotClose" class="note">{{ data.mayNotClose }}</p>
    <p v-if="data.deletion" class="note">
      {{ data.deletion.askedBy }} asks for the deletion of this matter: “{{ data.deletion.why }}”
      <button v-if="data.deletion.mayAgree" class="link" @click="((problem = null), (step = 'agree'))">Agree …</button>
    </p>
    <nav class="tabs" aria-label="Parts of the matter">
      <button v-for="t in tabs" :key="t.key" :aria-pressed="tab === t.key" @click="tab = t.key">
        {{ t.label }}<span v-if="t.count !== null" class="quiet">{{ t.count }}</span>
      </button>
    </nav>

    <MatterOverview v-if="tab === ''" :matter="data" @open="tab = $event" />
    <CustodiansTab v-else-if="tab === 'custodians'" :matter="data" />
    <NoticesTab v-else-if="tab === 'notices'" :matter="data" />
    <SweepsTab v-else-if="tab === 'sweeps'" :matter="data" />
    <OrdersTab v-else-if="tab === 'orders'" :matter="data" />
    <BundlesTab v-else-if="tab === 'bundles'" :matter="data" />
    <MembersTab v-else :matter="data" />
    <WhyDialog
      v-if="step"
      :title="steps[step]!.title"
      :says="steps[step]!.says"
      :danger="step === 'deleted' || step === 'agree'"
      :word="step === 'deleted' || step === 'agree' ? data.number : null"
      :busy="busy"
      :problem="problem"
      @go="go"
      @close="step = null"
      ><p>{{ steps[step]!.text }}</p>
      <p v-if="step === 'closing'">
        {{ plural(orders.length, 'order') }} in force, {{ plural(data.held, 'item') }} held; opened
        {{ day(data.openedAt) }}.
      </p></WhyDialog
    >
  </article>
</template>

<style scoped>
.matter {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 16px;
  align-content: start;
}
header {
  display: flex;
  justify-content: space-between;
  gap: 20px;
  align-items: start;
}
header p {
  margin: 0 0 2px;
}
h1 {
  font-size: 23px;
}
.acts {
  display: flex;
  gap: 8px;
  white-space: nowrap;
}
.acts .el-button {
  margin: 0;
}
.closing {
  color: var(--copper);
  font-weight: 600;
}
.note {
  margin: 0;
  padding: 8px 12px;
  background: var(--copper-wash);
  border-left: 3px solid var(--copper);
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  border-bottom: 1px solid var(--line);
}
.tabs button {
  display: flex;
  gap: 6px;
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  padding: 6px 10px;
  color: var(--ink-2);
  cursor: pointer;
  font-size: 14px;
}
.tabs button[aria-pressed='true'] {
  border-bottom-color: var(--copper);
  color: var(--ink);
  font-weight: 600;
}
</style>
