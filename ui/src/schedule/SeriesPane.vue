<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced, useSessionStorage } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { bytes, count, moment, plural } from '@/shared/format'
import Sentence from '@/shared/Sentence.vue'
import GroupList from './GroupList.vue'

type Definition = Schemas['SeriesDefinition']

const { id } = defineProps<{ id: number }>()
const client = useQueryClient()
const path = { params: { path: { id } } }
const { data, error } = useQuery({ queryKey: ['series', id], queryFn: () => take(api.GET('/api/series/{id}', path)) })

/** What is being written here and not saved yet; survives a reload. */
const written = useSessionStorage<Definition | null>(`widekeel.series.${id}`, null, { serializer: { read: (t) => JSON.parse(t) as Definition | null, write: (v) => JSON.stringify(v) } })
const saved = computed(() => data.value?.draft ?? data.value?.inForce ?? null)
const current = computed(() => written.value ?? saved.value)
const changed = computed(() => !!written.value && JSON.stringify(written.value) !== JSON.stringify(saved.value))
const isDraft = computed(() => !!data.value && (changed.value || !!data.value.draft))
const editable = computed(() => data.value?.mayWrite ?? false)
const { act, busy, problem } = useAct({ refresh: false })
const activating = ref(false)
const why = ref('')
const group = ref<{ name: string; title: string } | null>(null)
const details = ref(false)

function change(part: Partial<Definition>) {
  written.value = { ...current.value!, ...part }
  problem.value = null
}

const asked = refDebounced(computed(() => JSON.stringify(current.value)), 250)
const consequences = useQuery({
  queryKey: computed(() => ['consequences', id, asked.value, data.value?.revision]),
  queryFn: () => take(api.POST('/api/series/{id}/consequences', { ...path, body: JSON.parse(asked.value) as Definition })),
  enabled: computed(() => isDraft.value && editable.value && !!asked.value && asked.value !== 'null'),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
const due = computed(() => consequences.data.value?.figures.becomeDue.items ?? 0)
const reach = computed(() => consequences.data.value?.figures.inReach.items ?? 0)
const button = computed(() => (due.value ? `Put into effect — ${count(due.value)} become due today` : `Put into effect — ${plural(reach.value, 'item')} ruled, none due today`))

const fields = useQuery({
  queryKey: ['fields', id],
  queryFn: async () => {
    const page = await take(api.GET('/api/items', { params: { query: { series: [id], limit: 5 } } }))
    const details = await Promise.all(page.items.map((i) => take(api.GET('/api/items/{id}', { params: { path: { id: i.id } } }))))
    return [...new Set(details.flatMap((d) => d.dates.map((x) => x.name)))].sort()
  },
})

async function save() {
  if (!changed.value) return true
  return act(async () => {
    const detail = await take(api.PUT('/api/series/{id}/draft', { ...path, ...ifMatch(data.value!.revision), body: written.value! }))
    written.value = null
    client.setQueryData(['series', id], detail)
    await client.invalidateQueries({ queryKey: ['series'], exact: true })
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
    client.setQueryData(['series', id], await take(api.DELETE('/api/series/{id}/draft', { ...path, ...ifMatch(data.value!.revision) })))
    written.value = null
  })
}
async function activate() {
  if (!(await save())) return
  const done = await act(async () => {
    const fingerprint = consequences.data.value!.fingerprint
    client.setQueryData(['series', id], await take(api.POST('/api/series/{id}/activation', { ...path, ...ifMatch(data.value!.revision), body: { fingerprint, why: why.value } })))
    ElMessage({ message: `Version ${data.value!.version} is in force.`, type: 'success' })
  })
  if (done) {
    activating.value = false
    why.value = ''
  } else {
    await consequences.refetch()
  }
  await client.invalidateQueries()
}
/** Somebody else saved first: look at theirs, keep what was written here. */
async function lookAtTheirs() {
  problem.value = null
  await client.invalidateQueries({ queryKey: ['series', id] })
}
watch(() => data.value?.revision, () => (problem.value = null))
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <article v-else-if="data && current" class="series">
    <header>
      <p class="small quiet">{{ data.row.function || 'Without a function' }} · {{ data.row.code }} · {{ data.row.unit }}<template v-if="data.version"> · version {{ data.version }}</template><template v-if="data.draft"> · draft of {{ moment(data.draftAt) }} by {{ data.draftBy }}</template></p>
      <h1>{{ current.title }}</h1>
      <p class="tags">
        <span v-if="data.inForce" class="tag sea"><i class="bar" />In force</span>
        <span v-else class="tag"><i class="ring" />No rule yet</span>
        <span v-if="isDraft" class="tag copper"><i class="ring" />Draft not yet in force</span>
      </p>
    </header>
    <Sentence :definition="current" :in-force="data.inForce" :editable="editable" :fields="fields.data.value ?? []" @change="change" />
    <p class="settings">
      Protection <strong>Kept</strong> · Grace <strong>{{ plural(current.graceDays, 'day') }}</strong> · Rests on <strong>{{ current.authority || 'no authority' }}</strong>
      <button class="link" :aria-expanded="details" @click="details = !details">{{ editable ? 'Title, texts, grace, authority' : 'Texts' }}</button>
    </p>
    <div v-if="details" class="details panel">
      <label class="label" for="s-title">Title</label><el-input id="s-title" :model-value="current.title" :disabled="!editable" @update:model-value="change({ title: $event })" />
      <label class="label" for="s-function">Function</label><el-input id="s-function" :model-value="current.function" :disabled="!editable" @update:model-value="change({ function: $event })" />
      <label class="label" for="s-description">Description</label><el-input id="s-description" type="textarea" :rows="2" :model-value="current.description" :disabled="!editable" @update:model-value="change({ description: $event })" />
      <label class="label" for="s-guidance">Guidance for staff, shown where they file</label><el-input id="s-guidance" type="textarea" :rows="2" :model-value="current.guidance" :disabled="!editable" @update:model-value="change({ guidance: $event })" />
      <label class="label" for="s-authority">Authority: the law, regulation or contract it rests on</label><el-input id="s-authority" :model-value="current.authority" :disabled="!editable" @update:model-value="change({ authority: $event })" />
      <label class="label" for="s-grace">Grace, in days</label><input id="s-grace" class="box" type="number" min="0" max="3650" :value="current.graceDays" :disabled="!editable" @change="change({ graceDays: +($event.target as HTMLInputElement).value })" />
    </div>
    <template v-if="isDraft && editable">
      <Consequences :view="consequences.data.value" :loading="consequences.isFetching.value" :problem="consequences.error.value?.message" of="draft" @open="(name, title) => (group = { name, title })" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }} <button v-if="problem.code === 'stale'" class="link" @click="lookAtTheirs">Look at what is there now; yours stays here</button></p>
      <p class="acts">
        <el-button :type="due ? 'danger' : 'primary'" :disabled="!consequences.data.value || !!consequences.error.value || consequences.isFetching.value" :loading="busy" @click="activating = true">{{ button }}</el-button>
        <el-button :disabled="!changed" @click="keep">Keep as draft</el-button>
        <el-button v-if="data.inForce" @click="drop">Drop the draft</el-button>
      </p>
    </template>
    <p v-else-if="!editable" class="small quiet">This series belongs to {{ data.row.unit }}, above your part of the organisation. It rules you; you do not write it.</p>
    <dl class="kv facts">
      <dt>Filed under it</dt><dd><RouterLink :to="`/content?series=${id}`">{{ plural(data.row.items, 'item') }}</RouterLink>, {{ bytes(data.row.bytes) }}</dd>
      <dt>Due now</dt><dd><RouterLink v-if="data.row.due" :to="`/schedule/docket?due=${id}`">{{ count(data.row.due) }}</RouterLink><span v-else>none</span></dd>
      <dt>Dates to mend</dt><dd><RouterLink v-if="data.row.waiting" :to="`/content?series=${id}&state=awaitingEvent`">{{ count(data.row.waiting) }}</RouterLink><span v-else>none</span></dd>
      <template v-if="current.description"><dt>Holds</dt><dd>{{ current.description }}</dd></template>
      <template v-if="current.guidance"><dt>Guidance</dt><dd>{{ current.guidance }}</dd></template>
    </dl>
    <el-dialog v-model="activating" title="Put into effect" width="460" append-to-body>
      <p>{{ reach === 0 ? 'No item is filed under it yet.' : `${plural(reach, 'item')} ${reach === 1 ? 'is' : 'are'} ruled by it from now on; ${due ? `${count(due)} become due today and wait for sign-off` : 'none becomes due today'}.` }}</p>
      <label class="label" for="why">Why, for the version’s history</label>
      <el-input id="why" v-model="why" type="textarea" :rows="3" maxlength="1000" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer><el-button @click="activating = false">Not yet</el-button><el-button :type="due ? 'danger' : 'primary'" :disabled="!why.trim()" :loading="busy" @click="activate">{{ button }}</el-button></template>
    </el-dialog>
    <GroupList v-if="group" :series="id" :draft="current" :group="group.name" :title="group.title" @close="group = null" />
  </article>
</template>

<style scoped>
.series { display: grid; grid-template-columns: minmax(0, 1fr); gap: 14px; max-width: 860px }
header p { margin: 0 }
h1 { font-size: 25px; line-height: 1.25; overflow-wrap: anywhere }
.tags { display: flex; gap: 6px; margin-top: 6px !important }
.tag { display: inline-flex; align-items: center; gap: 7px; font-size: 12.5px; font-weight: 600; padding: 2px 9px; border-radius: var(--radius); background: var(--sheet-2); border: 1px solid transparent }
.tag.sea { color: var(--sea); background: var(--sea-wash) }
.tag.copper { color: var(--copper); background: var(--copper-wash) }
.bar { width: 9px; height: 3px; background: currentColor }
.ring { width: 9px; height: 9px; border: 2px solid currentColor; border-radius: 50% }
.settings { margin: 0; display: flex; gap: 5px; flex-wrap: wrap; align-items: baseline }
.settings button { margin-left: auto }
.details { padding: 14px; display: grid; gap: 6px }
.box { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--line-2); border-radius: var(--radius); height: 30px; padding: 0 8px; width: 120px }
.acts { margin: 0; display: flex; flex-wrap: wrap; gap: 8px }
.acts .el-button { margin: 0; height: 36px }
.facts { border-top: 1px solid var(--line); padding-top: 14px }
</style>
