<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { useAsked } from '@/shared/asked'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import { useWhatIf } from '@/shared/written'
import ActivateSeries from './ActivateSeries.vue'
import DropSeries from './DropSeries.vue'
import RetireSeries from './RetireSeries.vue'
import SeriesDetails from './SeriesDetails.vue'
import SeriesFacts from './SeriesFacts.vue'
import SeriesHead from './SeriesHead.vue'
import SeriesSentence from './SeriesSentence.vue'
import SeriesStanding from './SeriesStanding.vue'
import { seriesQuery } from './seriesQuery'

type Definition = Schemas['SeriesDefinition']

const { id } = defineProps<{ id: number }>()
const client = useQueryClient()
const path = { params: { path: { id } } }
const { data, error } = useQuery(seriesQuery(id))

const saved = computed(() => data.value?.draft ?? data.value?.inForce ?? null)
const editable = computed(() => (data.value?.mayWrite ?? false) && data.value?.row.state !== 'retired')
const written = useWhatIf<Definition>(`series.${id}`, () => (editable.value ? saved.value : null))
const current = computed(() => written.value ?? saved.value)
const changed = computed(() => !!written.value && JSON.stringify(written.value) !== JSON.stringify(saved.value))
const isDraft = computed(() => !!data.value && (changed.value || !!data.value.draft))
const { act, busy, problem, put } = useAct(['schedule'])
const activating = ref(false)
const retiring = ref(false)
const details = ref(false)

function change(part: Partial<Definition>) {
  written.value = { ...current.value!, ...part }
  problem.value = null
}

const { asked, behind } = useAsked(current)
const consequences = useQuery({
  queryKey: computed(() => ['consequences', id, asked.value, data.value?.revision]),
  queryFn: () =>
    take(api.POST('/api/series/{id}/consequences', { ...path, body: JSON.parse(asked.value) as Definition })),
  enabled: computed(() => isDraft.value && editable.value && !!asked.value && asked.value !== 'null'),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
const due = computed(() => consequences.data.value?.figures.becomeDue.items ?? 0)
const reach = computed(() => consequences.data.value?.figures.inReach.items ?? 0)
const button = computed(() =>
  secondPerson.value
    ? 'Ask a second person'
    : due.value
      ? `Put into effect — ${becomeDue(due.value)}`
      : `Put into effect — ${plural(reach.value, 'item')} ruled, none due today`,
)

async function save() {
  if (!changed.value) return true
  return act(async () => {
    const detail = await take(
      api.PUT('/api/series/{id}/draft', { ...path, ...ifMatch(data.value!.revision), body: written.value! }),
    )
    written.value = null
    put(['series', id], detail)
  })
}
async function keep() {
  if (await save()) ElMessage({ message: 'Draft kept. Nothing is ruled by it yet.', type: 'success' })
}
async function drop() {
  if (changed.value && !data.value?.draft) {
    written.value = null
    return
  }
  await act(async () => {
    put(['series', id], await take(api.DELETE('/api/series/{id}/draft', { ...path, ...ifMatch(data.value!.revision) })))
    written.value = null
  })
}
const authorities = useQuery({ queryKey: ['authorities'], queryFn: () => take(api.GET('/api/authorities')) })
const findings = computed(
  () =>
    (isDraft.value ? consequences.data.value?.authorities : null) ??
    authorities.data.value?.flatMap((a) => a.series.filter((s) => s.id === id).map((s) => s.finding)) ??
    [],
)
const becomesWorm = computed(() => current.value?.grade === 'worm' && data.value?.inForce?.grade !== 'worm')
const secondPerson = computed(() => (isDraft.value ? consequences.data.value?.secondPerson : null) ?? null)

async function activate(why: string) {
  if (!(await save())) return
  const done = await act(async () => {
    const fingerprint = consequences.data.value!.fingerprint
    put(
      ['series', id],
      await take(
        api.POST('/api/series/{id}/activation', {
          ...path,
          ...ifMatch(data.value!.revision),
          body: { fingerprint, why, confirmed: becomesWorm.value },
        }),
      ),
    )
    ElMessage({
      message: secondPerson.value
        ? 'Asked for. It takes effect once another person agrees.'
        : `Version ${data.value!.version} is in force.`,
      type: 'success',
    })
  })
  if (done) {
    activating.value = false
  } else {
    await consequences.refetch()
  }
}
/** Somebody else saved first: look at theirs, keep what was written here. */
async function lookAtTheirs() {
  problem.value = null
  await client.invalidateQueries({ queryKey: ['series', id] })
}
watch(
  () => data.value?.revision,
  () => (problem.value = null),
)
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <article v-else-if="data && current" class="series">
    <SeriesHead :series="data" :title="current.title" :draft="isDraft" />
    <SeriesSentence :id="id" :definition="current" :in-force="data.inForce" :editable="editable" @change="change" />
    <SeriesStanding
      :definition="current"
      :findings="findings"
      :details="details"
      :editable="editable"
      @toggle="details = !details"
    />
    <SeriesDetails
      v-if="details"
      :definition="current"
      :editable="editable"
      :authorities="authorities.data.value?.map((a) => a.code) ?? []"
      @change="change"
    />
    <template v-if="isDraft && editable">
      <Consequences
        :view="consequences.data.value"
        :loading="consequences.isFetching.value"
        :problem="consequences.error.value?.message"
        of="draft"
        :load="
          (group) =>
            take(api.POST('/api/series/{id}/consequences/{group}', { params: { path: { id, group } }, body: current! }))
        "
      />
      <p v-if="problem" class="problem" role="alert">
        {{ problem.message }}
        <button v-if="problem.code === 'stale'" class="link" @click="lookAtTheirs">
          Look at what is there now; yours stays here
        </button>
      </p>
      <p class="acts">
        <el-button
          :type="due ? 'danger' : 'primary'"
          :disabled="!consequences.data.value || !!consequences.error.value || consequences.isFetching.value || behind"
          :loading="busy"
          @click="activating = true"
          >{{ button }}</el-button
        >
        <el-button :disabled="!changed" @click="keep">Keep as draft</el-button>
        <el-button v-if="data.inForce" @click="drop">Drop the draft</el-button>
        <DropSeries v-else :series="data" :busy="busy" @dropped="written = null" />
      </p>
    </template>
    <p v-else-if="data.row.state === 'retired'" class="small quiet">
      Nothing new is filed under it; what is filed stays under version {{ data.version }} until it is disposed of.
    </p>
    <p v-else-if="!editable" class="small quiet">
      This series belongs to {{ data.row.unit }}, above your part of the organisation. It rules you; you do not write
      it.
    </p>
    <SeriesFacts :row="data.row" :definition="current" />
    <p v-if="editable && data.inForce" class="retire">
      <button class="link small" @click="retiring = true">Retire this series …</button>
    </p>
    <ActivateSeries
      v-if="activating"
      :definition="current"
      :figures="consequences.data.value ?? null"
      :says="button"
      :worm="becomesWorm"
      :busy="busy"
      :problem="problem"
      @go="activate"
      @close="activating = false"
    />
    <RetireSeries v-if="retiring" :series="data" @close="retiring = false" />
  </article>
</template>

<style scoped>
.series {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  max-width: 860px;
}
.retire {
  margin: 0;
  text-align: right;
}
.acts {
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.acts :deep(.el-button) {
  margin: 0;
  height: 36px;
}
</style>
