<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { may } from '@/shared/session'
import ControlForm from './ControlForm.vue'
import ControlHistory from './ControlHistory.vue'
import PartForm from './PartForm.vue'
import PartLine from './PartLine.vue'
import { percent, stateWords } from './words'

/** A control: how ready it is and how that is made, its parts with their proofs, and what it answers. */
const { control } = defineProps<{ control: Schemas['ControlView'] }>()
const emit = defineEmits<{ close: [] }>()
const { act, busy, problem } = useAct(['readiness'])
const path = computed(() => ({ params: { path: { id: control.id } } }))
const adding = ref(false)
const changing = ref(false)
const declaring = ref(false)
const reason = ref('')
const declare = async () => {
  if (
    await act(() =>
      take(api.POST('/api/controls/{id}/not-applicable', { ...path.value, body: { reason: reason.value } })),
    )
  )
    declaring.value = false
}
const again = () =>
  act(() => take(api.POST('/api/controls/{id}/not-applicable', { ...path.value, body: { reason: '' } })))
const approve = () => act(() => take(api.POST('/api/controls/{id}/approval', path.value)))
const remove = async () => {
  if (await act(() => take(api.DELETE('/api/controls/{id}', path.value)))) emit('close')
}
const showsHistory = ref(false)
const mapping = ref(false)
const overview = useQuery({
  queryKey: ['readiness'],
  queryFn: () => take(api.GET('/api/readiness')),
  enabled: mapping,
})
const framework = ref('')
const requirements = useQuery({
  queryKey: computed(() => ['readiness', 'framework', framework.value]),
  queryFn: () => take(api.GET('/api/frameworks/{code}', { params: { path: { code: framework.value } } })),
  enabled: computed(() => !!framework.value),
})
const map = (chosen: string[]) =>
  act(() =>
    take(
      api.PUT('/api/controls/{id}', {
        ...path.value,
        ...ifMatch(control.revision),
        body: {
          ...control.settings,
          requirements: [
            ...control.settings.requirements.filter((r) => !r.startsWith(`${framework.value}/`)),
            ...chosen.map((c) => `${framework.value}/${c}`),
          ],
        },
      }),
    ),
  )
const mapped = computed(() =>
  control.settings.requirements
    .filter((r) => r.startsWith(`${framework.value}/`))
    .map((r) => r.slice(framework.value.length + 1)),
)
const frameworks = computed(() => {
  const by = new Map<string, string[]>()
  for (const r of control.settings.requirements) {
    const [f, code] = [r.slice(0, r.indexOf('/')), r.slice(r.indexOf('/') + 1)]
    by.set(f, [...(by.get(f) ?? []), code])
  }
  return [...by]
})
</script>

<template>
  <article class="control">
    <p class="small quiet">
      {{ control.settings.code }} · {{ control.settings.area }} · {{ control.settings.owner || 'no owner' }}
    </p>
    <h1>{{ control.settings.title }}</h1>
    <p v-if="control.settings.says">{{ control.settings.says }}</p>
    <ControlForm v-if="changing" :control="control" @kept="changing = false" @left="changing = false" />
    <p class="figure">
      <strong>{{ percent(control.readiness) }}</strong>{{ ' ' }}{{ stateWords[control.state] }}
      <span class="small quiet">{{ control.formula }}</span>
    </p>
    <p v-if="control.awaitsApproval" class="wait">
      Somebody asked for it to be not applicable: “{{ control.notApplicable }}”. Until another person approves, it
      counts.
      <el-button v-if="control.mayApprove && may('manageReadiness')" size="small" :loading="busy" @click="approve"
        >Approve</el-button
      >
    </p>
    <p v-else-if="control.state === 'notApplicable'" class="small">
      Not applicable: “{{ control.notApplicable }}”, approved by {{ control.approvedBy }}.
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <section v-if="control.findings.length" aria-label="Open findings">
      <h2>{{ plural(control.findings.length, 'open finding') }}</h2>
      <p v-for="f in control.findings" :key="`${f.auditId} ${f.title}`" class="small">
        <span class="lacking">▲ {{ f.severity }}</span> {{ f.title
        }}<template v-if="f.action">: {{ f.action }}</template
        >{{ ' ' }}
        <span class="quiet"
          >· {{ [f.owner, f.due && `due ${day(f.due)}`].filter(Boolean).join(', ') }} ·
          <RouterLink :to="`/readiness/audits?audit=${f.auditId}`">{{ f.audit }}</RouterLink></span
        >
      </p>
    </section>
    <section aria-label="Parts">
      <PartLine v-for="p in control.parts" :key="p.id" :part="p" :control="control.id" :revision="control.revision" />
      <p v-if="control.parts.length === 0" class="lacking">
        ○ Nothing shows yet that it works: add a test, a routine or evidence.
      </p>
      <PartForm v-if="adding" :control="control.id" @close="adding = false" />
    </section>
    <p v-if="may('manageReadiness')" class="acts-row">
      <el-button v-if="!adding" size="small" @click="adding = true">Add a test, routine or evidence</el-button>
      <el-button size="small" @click="changing = !changing">Edit</el-button>
      <el-button size="small" @click="mapping = !mapping">Map to requirements</el-button>
      <el-button
        v-if="control.state === 'notApplicable' || control.awaitsApproval"
        size="small"
        :loading="busy"
        @click="again"
        >It is applicable</el-button
      >
      <el-button v-else size="small" @click="declaring = !declaring">Not applicable</el-button>
      <button
        class="link"
        :disabled="busy"
        title="A control with proofs is retired: its proofs stay, and so do the audits that they were offered to"
        @click="remove"
      >
        Remove the control
      </button>
    </p>
    <p v-if="declaring" class="acts-row">
      <el-input v-model="reason" size="small" placeholder="Why it does not apply" aria-label="Reason" />
      <el-button size="small" type="primary" :loading="busy" @click="declare">Ask for approval</el-button>
    </p>
    <div v-if="mapping" class="acts-row">
      <el-select v-model="framework" size="small" placeholder="framework" aria-label="Framework"
        ><el-option v-for="f in overview.data.value?.frameworks ?? []" :key="f.code" :value="f.code" :label="f.title"
      /></el-select>
      <el-select
        v-if="framework"
        :model-value="mapped"
        multiple
        filterable
        size="small"
        aria-label="Requirements"
        class="wide"
        @change="map"
        ><el-option
          v-for="r in requirements.data.value?.requirements ?? []"
          :key="r.code"
          :value="r.code"
          :label="`${r.code} ${r.title}`"
      /></el-select>
    </div>
    <section aria-label="What it answers">
      <h2>Answers {{ plural(control.settings.requirements.length, 'requirement') }}</h2>
      <p v-for="[f, codes] in frameworks" :key="f" class="small">
        <RouterLink :to="`/readiness?framework=${f}`">{{ f }}</RouterLink>: {{ codes.join(', ') }}
      </p>
    </section>
    <p class="small">
      <button class="link" :aria-expanded="showsHistory" @click="showsHistory = !showsHistory">
        {{ showsHistory ? 'Hide the history' : 'History' }}
      </button>
    </p>
    <ControlHistory v-if="showsHistory" :id="control.id" />
    <p class="small quiet">
      Effort to mend: {{ control.settings.effort }} hours; weight {{ control.settings.weight
      }}<template v-if="control.parts.some((p) => p.endsOn)"
        >; the first part ends on {{ day(control.parts.map((p) => p.endsOn ?? '9999').sort()[0]) }}</template
      >.
    </p>
  </article>
</template>

<style scoped>
.control {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}
h1 {
  font-size: 20px;
}
h2 {
  font-size: 15px;
}
p {
  margin: 0;
}
.figure strong {
  margin-right: 4px;
  font: 600 24px/1 var(--serif);
}
.wait {
  border-left: 3px solid var(--copper);
  padding-left: 10px;
}
.wide {
  width: 340px;
}
.acts-row .el-select:not(.wide) {
  width: 220px;
}
</style>
