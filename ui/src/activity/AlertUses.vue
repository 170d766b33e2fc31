<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import AttachedInvestigations from '@/shared/AttachedInvestigations.vue'
import { may } from '@/shared/session'

/** An alert becomes something else: an investigation that a matter takes over, evidence of a control, a finding. */
const { alert } = defineProps<{ alert: Schemas['AlertView'] }>()
const router = useRouter()
const { act, busy, problem } = useAct(['investigations', 'readiness'])
const path = computed(() => ({ params: { path: { id: alert.id } } }))
const attached = useQuery({
  queryKey: computed(() => ['investigations', 'alert', alert.id]),
  queryFn: () => take(api.GET('/api/alerts/{id}/investigations', path.value)),
})
const attach = (investigationId: number) =>
  act(() => take(api.POST('/api/alerts/{id}/investigations', { ...path.value, body: { investigationId } })))
const choosing = ref<'evidence' | 'finding' | null>(null)
const chosen = ref<number>()
const kept = ref('')
const evidence = useQuery({
  queryKey: ['evidence'],
  queryFn: () => take(api.GET('/api/evidence')),
  enabled: () => choosing.value === 'evidence',
})
const audits = useQuery({
  queryKey: ['audits'],
  queryFn: () => take(api.GET('/api/audits')),
  enabled: () => choosing.value === 'finding',
})
const choices = computed(() =>
  choosing.value === 'evidence'
    ? (evidence.data.value ?? [])
        .filter((e) => e.kind === 'evidence')
        .map((e) => ({ id: e.partId, words: `${e.control} · ${e.title}` }))
    : (audits.data.value ?? [])
        .filter((a) => !a.closedAt)
        .map((a) => ({ id: a.id, words: `${a.settings.name} · ${a.frameworkTitle}` })),
)
const severities: Record<Schemas['AlertSeverity'], string> = { low: 'observation', medium: 'minor', high: 'major' }
function choose(what: 'evidence' | 'finding') {
  ;[choosing.value, chosen.value, kept.value] = [what, undefined, '']
}
const investigate = () =>
  act(async () => {
    await take(api.POST('/api/alerts/{id}/investigation', path.value))
    await router.push('/activity/thread')
  })
async function keepAsEvidence(part: number) {
  const file = await take(api.GET('/api/alerts/{id}/file', { ...path.value, parseAs: 'blob' } as never))
  await take(
    api.POST('/api/control-parts/{id}/evidence', {
      params: { path: { id: part }, query: { file: `alert-${alert.id}.json` } },
      body: file as never,
      bodySerializer: (b: unknown) => b as Blob,
      headers: { 'Content-Type': 'application/octet-stream' },
    } as never),
  )
}
const makeFinding = (audit: number) =>
  take(
    api.POST('/api/audits/{id}/findings', {
      params: { path: { id: audit } },
      body: {
        title: `Alert ${alert.id}, ${alert.watch}: ${alert.why}`.slice(0, 200),
        severity: severities[alert.severity],
        control: '',
      },
    }),
  )
async function go() {
  const what = choosing.value!
  if (await act(() => (what === 'evidence' ? keepAsEvidence(chosen.value!) : makeFinding(chosen.value!)))) {
    kept.value = what === 'evidence' ? 'It is kept as evidence.' : 'The audit has it among its findings.'
    choosing.value = null
  }
}
</script>

<template>
  <section aria-label="What it becomes">
    <h2>Carry it on</h2>
    <p class="row">
      <button v-if="may('manageWatches')" class="link" :disabled="busy" @click="investigate">
        Open an investigation with its events
      </button>
      <template v-if="may('manageReadiness')">
        <button class="link" @click="choose('evidence')">Keep it as evidence …</button>
        <button class="link" @click="choose('finding')">Make it a finding …</button>
      </template>
      <a :href="`/api/alerts/${alert.id}/file`" download>Save it as a file</a>
    </p>
    <AttachedInvestigations
      :attached="attached.data.value ?? []"
      :busy="busy"
      :file="(i) => `/api/investigations/${i}/file`"
      @attach="attach"
    />
    <form v-if="choosing" class="row" @submit.prevent="go">
      <el-select
        v-model="chosen"
        filterable
        size="small"
        :aria-label="choosing === 'evidence' ? 'Evidence of which control' : 'Finding of which audit'"
        :placeholder="choosing === 'evidence' ? 'Evidence of which control' : 'Finding of which audit'"
        :no-data-text="
          choosing === 'evidence' ? 'No control asks for evidence. Add one under Controls.' : 'No audit is open.'
        "
        ><el-option v-for="c in choices" :key="c.id" :value="c.id" :label="c.words"
      /></el-select>
      <el-button size="small" type="primary" native-type="submit" :loading="busy" :disabled="chosen === undefined">{{
        choosing === 'evidence' ? 'Keep it' : 'Make it a finding'
      }}</el-button>
      <button type="button" class="link" @click="choosing = null">Leave it</button>
    </form>
    <p v-if="kept" class="settled" role="status">✓ {{ kept }}</p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}
h2 {
  font-size: 15px;
  margin: 0;
}
p {
  margin: 0;
}
.row {
  display: flex;
  gap: 8px 16px;
  flex-wrap: wrap;
  align-items: center;
}
.el-select {
  width: 320px;
}
.settled {
  color: var(--sea);
}
</style>
