<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { useRouter } from 'vue-router'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { bytes, count, moment, plural } from '@/shared/format'
import Sentence from '@/shared/Sentence.vue'
import WhyDialog from '@/shared/WhyDialog.vue'
import { gradeWords } from '@/shared/words'
import { useWhatIf } from '@/shared/written'
import RetireSeries from './RetireSeries.vue'
import SeriesDetails from './SeriesDetails.vue'
import { seriesQuery } from './seriesQuery'

type Definition = Schemas['SeriesDefinition']

const { id } = defineProps<{ id: number }>()
const client = useQueryClient()
const path = { params: { path: { id } } }
const { data, error } = useQuery(seriesQuery(id))

const saved = computed(() => data.value?.draft ?? data.value?.inForce ?? null)
const router = useRouter()
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

const asked = refDebounced(
  computed(() => JSON.stringify(current.value)),
  250,
)
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

const fields = useQuery({
  queryKey: ['fields', id],
  queryFn: async () => {
    const page = await take(api.GET('/api/items', { params: { query: { series: [id], limit: 5 } } }))
    const details = await Promise.all(
      page.items.map((i) => take(api.GET('/api/items/{id}', { params: { path: { id: i.id } } }))),
    )
    return [...new Set(details.flatMap((d) => d.dates.map((x) => x.name)))].sort()
  },
})

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
/** A series that was never in force goes as a whole. */
async function dropSeries() {
  const done = await act(() => take(api.DELETE('/api/series/{id}', { ...path, ...ifMatch(data.value!.revision) })))
  if (!done) return
  written.value = null
  await router.push('/schedule')
}
const authorities = useQuery({ queryKey: ['authorities'], queryFn: () => take(api.GET('/api/authorities')) })
const findings = computed(
  () =>
    (isDraft.value ? consequences.data.value?.authorities : null) ??
    authorities.data.value?.flatMap((a) => a.series.filter((s) => s.id === id).map((s) => s.finding)) ??
    [],
)
const colleagues = useQuery({ queryKey: ['colleagues'], queryFn: () => take(api.GET('/api/colleagues')) })
const events = useQuery({ queryKey: ['trigger-event-types'], queryFn: () => take(api.GET('/api/trigger-event-types')) })
const becomesWorm = computed(() => current.value?.grade === 'worm' && data.value?.inForce?.grade !== 'worm')
const thenWhat = computed(() => {
  const one = due.value === 1
  return current.value?.atEnd === 'signOff'
    ? ` and ${one ? 'waits' : 'wait'} for sign-off`
    : ' and may be destroyed without sign-off'
})
const dropping = computed(() => {
  const { code, items } = data.value!.row
  const unfiled = items ? ` ${plural(items, 'item')} will be under no series again.` : ''
  return `Drop ${code}? It was never in force.${unfiled}`
})
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
    <header>
      <p class="small quiet">
        {{ data.row.function || 'Without a function' }} · {{ data.row.code }} · {{ data.row.unit
        }}<template v-if="data.version"> · version {{ data.version }}</template
        ><template v-if="data.draft"> · draft of {{ moment(data.draftAt) }} by {{ data.draftBy }}</template>
      </p>
      <h1>{{ current.title }}</h1>
      <p class="tags">
        <span v-if="data.row.state === 'retired'" class="tag"><i class="ring" />Retired</span>
        <span v-else-if="data.inForce" class="tag sea"><i class="bar" />In force</span>
        <span v-else class="tag"><i class="ring" />No rule yet</span>
        <span v-if="isDraft" class="tag copper"><i class="ring" />Draft not yet in force</span>
      </p>
    </header>
    <Sentence
      :definition="current"
      :in-force="data.inForce"
      :editable="editable"
      :fields="fields.data.value ?? []"
      :events="events.data.value?.map((e) => e.name) ?? []"
      :colleagues="colleagues.data.value ?? []"
      @change="change"
    />
    <p class="settings">
      <span
        >Protection <strong>{{ gradeWords[current.grade] }}</strong><template v-if="current.ratchet">
          under a <strong>ratchet</strong></template
        ></span
      >
      <span
        >Grace <strong>{{ plural(current.graceDays, 'day') }}</strong></span
      >
      <span
        >Owner <strong :class="{ lacking: !current.owner }">{{ current.owner || 'nobody' }}</strong></span
      >
      <button class="link" :aria-expanded="details" @click="details = !details">
        {{ editable ? 'Title, texts, protection, authorities' : 'Texts' }}
      </button>
    </p>
    <ul class="rests" aria-label="Rests on">
      <li v-if="current.authorities.length === 0" class="quiet">It rests on no authority.</li>
      <li v-for="code in current.authorities" :key="code">
        <RouterLink :to="`/schedule/authorities?authority=${encodeURIComponent(code)}`">{{ code }}</RouterLink>
        <span
          v-for="f in findings.filter((f) => f.authority === code)"
          :key="f.sentence"
          :class="f.verdict === 'meets' ? 'quiet' : 'lacking'"
          >{{ f.sentence }}</span
        >
      </li>
    </ul>
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
      <p v-if="secondPerson" class="second">A second person must agree: {{ secondPerson }}.</p>
      <p v-if="problem" class="problem" role="alert">
        {{ problem.message }}
        <button v-if="problem.code === 'stale'" class="link" @click="lookAtTheirs">
          Look at what is there now; yours stays here
        </button>
      </p>
      <p class="acts">
        <el-button
          :type="due ? 'danger' : 'primary'"
          :disabled="!consequences.data.value || !!consequences.error.value || consequences.isFetching.value"
          :loading="busy"
          @click="activating = true"
          >{{ button }}</el-button
        >
        <el-button :disabled="!changed" @click="keep">Keep as draft</el-button>
        <el-button v-if="data.inForce" @click="drop">Drop the draft</el-button>
        <el-popconfirm
          v-else
          :title="dropping"
          confirm-button-text="Drop it"
          cancel-button-text="Keep it"
          width="300"
          @confirm="dropSeries"
        >
          <template #reference><el-button :disabled="busy">Drop the series</el-button></template>
        </el-popconfirm>
      </p>
    </template>
    <p v-else-if="data.row.state === 'retired'" class="small quiet">
      Nothing new is filed under it; what is filed stays under version {{ data.version }} until it is disposed of.
    </p>
    <p v-else-if="!editable" class="small quiet">
      This series belongs to {{ data.row.unit }}, above your part of the organisation. It rules you; you do not write
      it.
    </p>
    <dl class="kv facts">
      <dt>Filed under it</dt>
      <dd>
        <RouterLink :to="`/content?series=${id}`">{{ plural(data.row.items, 'item') }}</RouterLink>,
        {{ bytes(data.row.bytes) }}
      </dd>
      <dt>Due now</dt>
      <dd>
        <RouterLink v-if="data.row.due" :to="`/schedule/docket?due=${id}`">{{ count(data.row.due) }}</RouterLink><span
          v-else
          >none</span
        >
      </dd>
      <dt>Waiting</dt>
      <dd>
        <RouterLink v-if="data.row.waiting" :to="`/content?series=${id}&state=awaitingEvent`">{{
          count(data.row.waiting)
        }}</RouterLink><span v-else>none</span>
      </dd>
      <template v-if="current.description"
        ><dt>Holds</dt>
        <dd>{{ current.description }}</dd></template
      >
      <template v-if="current.guidance"
        ><dt>Guidance</dt>
        <dd>{{ current.guidance }}</dd></template
      >
    </dl>
    <p v-if="editable && data.inForce" class="retire">
      <button class="link small" @click="retiring = true">Retire this series …</button>
    </p>
    <WhyDialog
      v-if="activating"
      title="Put into effect"
      :says="button"
      :danger="!!due || becomesWorm"
      :word="becomesWorm ? 'for good' : null"
      :busy="busy"
      :problem="problem"
      label="Why, for the version’s history"
      @go="activate"
      @close="activating = false"
    >
      <p v-if="secondPerson">Another person must agree before anything changes: {{ secondPerson }}.</p>
      <p v-if="becomesWorm">
        It is WORM: what is under it can never be taken off, changed, deleted or kept for a shorter time, by anyone.
      </p>
      <p v-if="!secondPerson">
        {{
          reach === 0
            ? 'No item is filed under it yet.'
            : `${plural(reach, 'item is', 'items are')} ruled by it from now on; ${becomeDue(due)}${due ? thenWhat : ''}.`
        }}
      </p>
    </WhyDialog>
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
header p {
  margin: 0;
}
h1 {
  font-size: 25px;
  line-height: 1.25;
  overflow-wrap: anywhere;
}
.tags {
  display: flex;
  gap: 6px;
  margin-top: 6px !important;
}
.tag {
  display: inline-flex;
  align-items: center;
  gap: 7px;
  font-size: 12.5px;
  font-weight: 600;
  padding: 2px 9px;
  border-radius: var(--radius);
  background: var(--sheet-2);
  border: 1px solid transparent;
}
.tag.sea {
  color: var(--sea);
  background: var(--sea-wash);
}
.tag.copper {
  color: var(--copper);
  background: var(--copper-wash);
}
.bar {
  width: 9px;
  height: 3px;
  background: currentColor;
}
.ring {
  width: 9px;
  height: 9px;
  border: 2px solid currentColor;
  border-radius: 50%;
}
.settings {
  margin: 0;
  display: flex;
  gap: 5px;
  flex-wrap: wrap;
  align-items: baseline;
}
.settings button {
  margin-left: auto;
}
.settings {
  gap: 4px 16px;
}
.lacking {
  color: var(--copper);
}
.rests {
  list-style: none;
  margin: -6px 0 0;
  padding: 0;
  display: grid;
  gap: 2px;
  font-size: 13.5px;
}
.rests li {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
}
.second {
  margin: 0;
  color: var(--copper);
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
.acts .el-button {
  margin: 0;
  height: 36px;
}
.facts {
  border-top: 1px solid var(--line);
  padding-top: 14px;
}
</style>
