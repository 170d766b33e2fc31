<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { useAsked } from '@/shared/asked'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { moment, plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'
import { useWhatIf } from '@/shared/written'
import BlanketSentence from './BlanketSentence.vue'

type Definition = Schemas['BlanketDefinition']
const { blanket } = defineProps<{ blanket: Schemas['BlanketView'] }>()
const path = { params: { path: { id: blanket.id } } }
const editable = computed(() => blanket.mayWrite && blanket.state !== 'retired')
const written = useWhatIf<Definition>(`blanket.${blanket.id}`, () =>
  editable.value ? (blanket.draft ?? blanket.inForce) : null,
)
const current = computed(() => written.value ?? blanket.draft ?? blanket.inForce!)
const changed = computed(
  () => !!written.value && JSON.stringify(written.value) !== JSON.stringify(blanket.draft ?? blanket.inForce),
)
const isDraft = computed(() => changed.value || !!blanket.draft)
const { act, busy, problem } = useAct(['schedule', 'proposals'], { refused: () => consequences.refetch() })
const dialog = ref<'activate' | 'retire' | null>(null)
const { asked, behind } = useAsked(current)
const consequences = useQuery({
  queryKey: computed(() => ['blanket-consequences', blanket.id, asked.value, blanket.revision]),
  queryFn: () =>
    take(api.POST('/api/blankets/{id}/consequences', { ...path, body: JSON.parse(asked.value) as Definition })),
  enabled: computed(() => isDraft.value && editable.value),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
const retirement = useQuery({
  queryKey: ['blanket-retirement', blanket.id, blanket.revision],
  queryFn: () => take(api.POST('/api/blankets/{id}/retirement/consequences', path)),
  enabled: computed(() => dialog.value === 'retire'),
  gcTime: 0,
})
const figures = computed(() => consequences.data.value?.consequences.figures)
const due = computed(() => figures.value?.becomeDue.items ?? 0)
const secondPerson = computed(() => (isDraft.value ? consequences.data.value?.secondPerson : null) ?? null)
const says = computed(
  () =>
    (secondPerson.value ? 'Ask a second person — ' : 'Put into effect — ') +
    (due.value ? becomeDue(due.value) : `${plural(figures.value?.inReach.items ?? 0, 'item')} covered, none due today`),
)
const losing = computed(() => retirement.data.value?.figures.loseProtection.items ?? 0)

const change = (part: Partial<Definition>) => (written.value = { ...current.value, ...part })
const revision = ref(blanket.revision)
async function save() {
  if (!changed.value) return true
  return act(async () => {
    revision.value = (
      await take(api.PUT('/api/blankets/{id}/draft', { ...path, ...ifMatch(blanket.revision), body: written.value! }))
    ).revision
    written.value = null
  })
}
async function keep() {
  if (await save()) ElMessage({ message: 'Draft kept. Nothing is ruled by it yet.', type: 'success' })
}
const drop = () =>
  act(async () => {
    written.value = null
    if (blanket.draft) await take(api.DELETE('/api/blankets/{id}/draft', { ...path, ...ifMatch(blanket.revision) }))
  })
/** A blanket that was never in force goes as a whole. */
const dropBlanket = () =>
  act(async () => {
    await take(api.DELETE('/api/blankets/{id}', { ...path, ...ifMatch(blanket.revision) }))
    written.value = null
  })
async function activate(why: string) {
  const fingerprint = consequences.data.value!.consequences.fingerprint
  revision.value = blanket.revision
  if (!(await save())) return
  const done = await act(async () => {
    await take(
      api.POST('/api/blankets/{id}/activation', { ...path, ...ifMatch(revision.value), body: { fingerprint, why } }),
    )
    ElMessage({
      message: secondPerson.value
        ? 'Asked for. It takes effect once another person agrees.'
        : 'The blanket is in force.',
      type: 'success',
    })
  })
  if (done) dialog.value = null
}
async function retire(why: string) {
  const done = await act(async () => {
    await take(
      api.POST('/api/blankets/{id}/retirement', {
        ...path,
        ...ifMatch(blanket.revision),
        body: { fingerprint: retirement.data.value!.fingerprint, why },
      }),
    )
    ElMessage({
      message: retirement.data.value!.secondPerson
        ? 'Asked for. It is retired once another person agrees.'
        : 'The blanket is retired.',
      type: 'success',
    })
  })
  if (done) dialog.value = null
}
</script>

<template>
  <section class="panel block" :aria-label="blanket.name">
    <header>
      <h2>{{ blanket.name }}</h2>
      <span class="small quiet"
        >{{ blanket.unit }}<template v-if="blanket.version"> · version {{ blanket.version }}</template
        ><template v-if="blanket.draft">
          · draft of {{ moment(blanket.draftAt) }} by {{ blanket.draftBy }}</template
        ></span
      >
    </header>
    <BlanketSentence
      :definition="current"
      :in-force="blanket.inForce"
      :editable="editable"
      :covered="consequences.data.value?.covered ?? blanket.covered"
      @change="change"
    />
    <p class="small quiet covers">
      Covers today:
      <template v-for="(c, i) in consequences.data.value?.covered ?? blanket.covered" :key="c.id"
        >{{ i ? ', ' : '' }}<RouterLink :to="`/content?container=${c.id}`">{{ c.name }}</RouterLink></template
      ><template v-if="!(consequences.data.value?.covered ?? blanket.covered).length">no container</template>.<template
        v-if="current.keep"
      >
        Users may delete what it keeps: it disappears for them, stays in safekeeping, and is still found and
        counted.</template
      >
    </p>
    <template v-if="isDraft && editable">
      <Consequences
        :view="consequences.data.value?.consequences"
        :loading="consequences.isFetching.value"
        :problem="consequences.error.value?.message"
        of="blanket"
        :load="
          (group) =>
            take(
              api.POST('/api/blankets/{id}/consequences/{group}', {
                params: { path: { id: blanket.id, group } },
                body: current,
              }),
            )
        "
      />
      <p v-if="problem && !dialog" class="problem" role="alert">{{ problem.message }}</p>
      <p class="acts-row">
        <el-button
          :type="due ? 'danger' : 'primary'"
          :disabled="!consequences.data.value || !!consequences.error.value || consequences.isFetching.value || behind"
          @click="dialog = 'activate'"
          >{{ says }}</el-button
        >
        <el-button :disabled="!changed" @click="keep">Keep as draft</el-button>
        <el-button v-if="blanket.inForce" @click="drop">Drop the draft</el-button>
        <el-popconfirm
          v-else
          :title="`Drop “${blanket.name}”? It was never in force.`"
          confirm-button-text="Drop it"
          cancel-button-text="Keep it"
          width="300"
          @confirm="dropBlanket"
        >
          <template #reference><el-button :disabled="busy">Drop the blanket</el-button></template>
        </el-popconfirm>
      </p>
    </template>
    <p v-else-if="editable && blanket.state === 'active'" class="acts-row">
      <el-button @click="dialog = 'retire'">Retire …</el-button>
    </p>
    <WhyDialog
      v-if="dialog === 'activate'"
      title="Put the blanket into effect"
      :says="says"
      :danger="!!due"
      :busy="busy"
      :problem="problem"
      @go="activate"
      @close="dialog = null"
    >
      <p v-if="secondPerson">Another person must agree before anything changes: {{ secondPerson }}.</p>
      <p>
        {{ plural(figures?.inReach.items ?? 0, 'item') }} in
        {{ plural(consequences.data.value?.covered.length ?? 0, 'container') }}; {{ becomeDue(due)
        }}{{ due ? ` and ${due === 1 ? 'is' : 'are'} destroyed without sign-off` : '' }}.
      </p>
    </WhyDialog>
    <WhyDialog
      v-if="dialog === 'retire'"
      title="Retire the blanket"
      :says="`Retire — ${losing ? `${plural(losing, 'item')} lose protection` : 'no item loses protection'}`"
      :danger="!!losing"
      :ready="!!retirement.data.value && !retirement.isFetching.value"
      :busy="busy"
      :problem="problem"
      @go="retire"
      @close="dialog = null"
    >
      <p>It rules no longer.</p>
      <Consequences
        :view="retirement.data.value"
        :loading="retirement.isFetching.value"
        :problem="retirement.error.value?.message"
        of="retirement"
        :load="
          (group) =>
            take(
              api.POST('/api/blankets/{id}/retirement/consequences/{group}', {
                params: { path: { id: blanket.id, group } },
              }),
            )
        "
      />
    </WhyDialog>
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.covers {
  margin: 0;
}
</style>
