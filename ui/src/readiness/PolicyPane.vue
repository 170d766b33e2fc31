<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { may } from '@/shared/session'
import PolicyForm from './PolicyForm.vue'
import PolicyReaders from './PolicyReaders.vue'
import PolicyVersionForm from './PolicyVersionForm.vue'
import { acknowledgementWords } from './words'

/** A policy: its versions with who wrote and who approved them, and everybody whom it binds. */
const { policy } = defineProps<{ policy: Schemas['PolicyView'] }>()
const path = computed(() => ({ params: { path: { id: policy.id } } }))
const { data, error } = useQuery({
  queryKey: computed(() => ['policies', policy.id]),
  queryFn: () => take(api.GET('/api/policies/{id}', path.value)),
})
const { act, busy, problem } = useAct(['readiness'])
const doing = ref<'' | 'change' | 'version' | 'end'>('')
const state = ref<Schemas['Acknowledgement'] | 'all'>('all')
const words = ref('')
const readers = computed(() =>
  (data.value?.readers ?? []).filter(
    (r) =>
      (state.value === 'all' || r.state === state.value) &&
      `${r.name} ${r.unit} ${r.mail}`.toLowerCase().includes(words.value.toLowerCase()),
  ),
)
const counts = computed(() => ({
  given: policy.given,
  asked: policy.asked,
  overdue: policy.overdue,
  notAsked: policy.notAsked,
}))
const said = ref('')
const approve = (number: number) =>
  act(() =>
    take(api.POST('/api/policies/{id}/versions/{number}/approval', { params: { path: { id: policy.id, number } } })),
  )
const refusing = ref(false)
const why = ref('')
async function refuse(number: number) {
  const done = await act(() =>
    take(
      api.POST('/api/policies/{id}/versions/{number}/refusal', {
        params: { path: { id: policy.id, number } },
        body: { why: why.value },
      }),
    ),
  )
  if (done) [refusing.value, why.value] = [false, '']
}
const ask = () =>
  act(async () => {
    const { asked } = await take(api.POST('/api/policies/{id}/requests', path.value))
    said.value = `${plural(asked, 'person', 'people')} asked by message.`
  })
const remind = () =>
  act(async () => {
    const { asked } = await take(api.POST('/api/policies/{id}/reminders', path.value))
    said.value = `${plural(asked, 'person', 'people')} reminded.`
  })
async function end() {
  if (await act(() => take(api.POST('/api/policies/{id}/end', path.value)))) doing.value = ''
}
</script>

<template>
  <article class="pane">
    <header>
      <h1>{{ policy.settings.title }}</h1>
      <span class="code quiet">{{ policy.settings.code }}</span>
      <span v-if="may('manageReadiness') && !policy.endedOn" class="right"
        ><el-button size="small" @click="doing = 'version'">Next version</el-button>
        <el-button size="small" @click="doing = 'change'">Change</el-button>
        <el-button size="small" @click="doing = 'end'">End it</el-button></span
      >
    </header>
    <p class="quiet">
      {{ policy.settings.says }} Binds
      {{ [...policy.settings.units, ...policy.settings.groups].join(', ') || 'everybody' }};
      {{ plural(policy.settings.days ?? 14, 'day') }} to acknowledge<template v-if="policy.settings.owner"
        >; {{ policy.settings.owner }} answers for it</template
      ><template v-if="policy.settings.reviewOn"
        >;
        <span :class="{ lacking: policy.reviewOverdue }"
          >{{ policy.reviewOverdue ? '▲ ' : '' }}to be looked at by {{ day(policy.settings.reviewOn) }}</span
        ></template
      >.
    </p>
    <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <PolicyForm v-if="doing === 'change'" :policy="policy" @kept="doing = ''" @left="doing = ''" />
    <!-- The form begins with the text of the last version, so it waits until that is here. -->
    <PolicyVersionForm
      v-if="doing === 'version' && data"
      :id="policy.id"
      :versions="data.versions"
      @kept="doing = ''"
      @left="doing = ''"
    />
    <p v-if="doing === 'end'" class="panel block">
      From tomorrow it binds nobody, and nobody is asked any more. What was acknowledged stays.
      <el-button size="small" type="danger" :loading="busy" @click="end">End it</el-button>
      <button class="link" @click="doing = ''">Leave it</button>
    </p>
    <section aria-label="Versions" class="versions">
      <details v-for="v in data?.versions ?? []" :key="v.number" :open="v.inForce || !v.approvedAt" class="panel">
        <summary>
          <strong>Version {{ v.number }}</strong>
          <span v-if="v.inForce" class="settled small">✓ in force since {{ day(v.inForceFrom) }}</span>
          <span v-else-if="!v.approvedAt" class="lacking small">waits for approval; from {{ day(v.inForceFrom) }}</span>
          <span v-else class="quiet small">from {{ day(v.inForceFrom) }}</span>
          <span class="small quiet right"
            >written by {{ v.madeBy }}<template v-if="v.approvedBy">, approved by {{ v.approvedBy }}</template></span
          >
        </summary>
        <p v-if="v.change" class="small">
          <span class="quiet">Different:</span> {{ v.change
          }}{{ v.asksAnew ? '' : ' Earlier acknowledgements stay good.' }}
        </p>
        <p class="text">{{ v.text }}</p>
        <p class="small quiet">
          <a v-if="v.fileName" :href="`/api/policies/${policy.id}/versions/${v.number}/file`" download>{{
            v.fileName
          }}</a>
          <span class="code"> SHA-256 {{ v.hash.slice(0, 16) }}…</span>
        </p>
        <p v-if="!v.approvedAt">
          <el-button v-if="v.mayApprove" size="small" type="primary" :loading="busy" @click="approve(v.number)"
            >Approve version {{ v.number }}</el-button
          >
          <span v-else class="small quiet">Another person than {{ v.madeBy }} approves it.</span>
          <button v-if="may('manageReadiness')" class="link small" @click="refusing = !refusing">
            {{ v.mayApprove ? 'Turn it down …' : 'Take it back …' }}
          </button>
        </p>
        <p v-if="!v.approvedAt && refusing" class="acts-row">
          <el-input v-model="why" size="small" placeholder="Why" aria-label="Why" />
          <el-button size="small" :disabled="!why.trim()" :loading="busy" @click="refuse(v.number)">{{
            v.mayApprove ? 'Turn it down' : 'Take it back'
          }}</el-button>
        </p>
      </details>
      <p v-if="data?.versions.length === 0" class="quiet">It has no text yet. Write its first version.</p>
    </section>
    <section v-if="policy.inForce" aria-label="Acknowledgements">
      <div class="row">
        <el-radio-group v-model="state" size="small" aria-label="State"
          ><el-radio-button value="all">All {{ policy.bound }}</el-radio-button
          ><el-radio-button v-for="(n, k) in counts" :key="k" :value="k" :disabled="!n"
            >{{ acknowledgementWords[k] }} {{ n }}</el-radio-button
          ></el-radio-group
        >
        <el-input v-model="words" size="small" class="find" placeholder="Name or unit" aria-label="Find" clearable />
        <span class="right row"
          ><el-button
            v-if="may('manageReadiness') && policy.notAsked"
            size="small"
            type="primary"
            :loading="busy"
            @click="ask"
            >Ask {{ policy.notAsked }}</el-button
          >
          <el-button v-if="may('manageReadiness') && policy.overdue" size="small" :loading="busy" @click="remind"
            >Remind {{ policy.overdue }}</el-button
          >
          <a class="small" :href="`/api/policies/${policy.id}/acknowledgements.csv`" download>as CSV</a></span
        >
      </div>
      <p v-if="said" class="settled small" role="status">{{ said }}</p>
      <PolicyReaders :readers="readers" />
    </section>
  </article>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}
header,
summary,
.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.versions {
  display: grid;
  gap: 8px;
}
details {
  padding: 10px 14px;
}
summary {
  cursor: pointer;
}
.text {
  white-space: pre-wrap;
  max-width: 70ch;
}
.find {
  width: 160px;
}
.row {
  align-items: center;
  margin-bottom: 8px;
}
</style>
