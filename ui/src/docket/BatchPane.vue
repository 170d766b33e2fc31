<script setup lang="ts">
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref, watch } from 'vue'
import { may } from '@/app/session'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { bytes, count, day, moment, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import { roleWords } from '@/shared/words'
import ItemPane from '@/content/ItemPane.vue'

const { id } = defineProps<{ id: number }>()
const client = useQueryClient()
const { number } = useUrl()
const line = number('line')
const path = { params: { path: { id } } }
const { data: batch, error } = useQuery({ queryKey: ['batch', id], queryFn: () => take(api.GET('/api/batches/{id}', path)) })
const pages = useInfiniteQuery({
  queryKey: ['batch', id, 'lines'],
  queryFn: ({ pageParam }) => take(api.GET('/api/batches/{id}/lines', { params: { path: { id }, query: { cursor: pageParam, limit: 200 } } })),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
})
type Row = Schemas['LineView'] & { id: number }
const rows = computed<Row[]>(() => pages.data.value?.pages.flatMap((p) => p.lines.map((l) => ({ ...l, id: l.item.id }))) ?? [])
const selected = ref(new Set<number>())
const comment = ref('')
const typed = ref('')
const signing = ref(false)
const withdrawing = ref(false)
const extending = ref(false)
const until = ref('')
const why = ref('')
const { act, busy, problem } = useAct({ refused: async (p) => p.code === 'stale' && client.invalidateQueries({ queryKey: ['batch', id] }) })

const isLast = computed(() => !!batch.value && batch.value.signOffs.length === batch.value.stages.length - 1)
const maySign = computed(() => may('signDisposition') && !!batch.value && !batch.value.mayNotSign && (batch.value.state === 'open' || batch.value.state === 'signing'))
const markable = computed(() => may('signDisposition') && batch.value?.state === 'open')
const targets = computed(() => (selected.value.size ? [...selected.value] : line.value ? [line.value] : []))
const button = computed(() => (isLast.value ? `Sign and destroy ${count(batch.value?.toDestroy ?? 0)}` : `Sign stage ${(batch.value?.signOffs.length ?? 0) + 1} of ${batch.value?.stages.length ?? 2}`))

const columns: Column[] = [
  { key: 'title', label: 'Item', width: 200, grow: true },
  { key: 'mark', label: 'Mark', width: 150 },
  { key: 'due', label: 'Due since', width: 100 },
  { key: 'opened', label: 'Opened by', width: 120 },
  { key: 'bytes', label: 'Size', width: 76, align: 'right' },
]
const outcomes: Record<Schemas['LineState'], string> = { waiting: '', destroying: 'being destroyed', destroyed: 'destroyed', extended: 'extended', droppedOut: 'dropped out', failed: 'failed' }

const mark = (as: 'destroy' | 'extend') =>
  act(async () => {
    await take(api.POST('/api/batches/{id}/marks', { ...path, body: { items: targets.value, mark: as, until: as === 'extend' ? until.value : undefined, why: as === 'extend' ? why.value : undefined } }))
    selected.value = new Set()
    extending.value = false
  })
async function sign() {
  const done = await act(() => take(api.POST('/api/batches/{id}/sign-offs', { ...path, ...ifMatch(batch.value!.revision), body: { comment: comment.value } })))
  if (done) {
    signing.value = false
    comment.value = typed.value = ''
    ElMessage({ message: batch.value?.state === 'executing' || batch.value?.state === 'done' ? 'Signed. The items are being destroyed.' : 'Signed. The next stage is asked.', type: 'success' })
  }
}
const withdraw = async () => (await act(() => take(api.POST('/api/batches/{id}/withdrawal', { ...path, body: { comment: comment.value } })))) && (withdrawing.value = false)
const retry = () => act(() => take(api.POST('/api/batches/{id}/retry', path)))

/** What was really looked at is counted: opening a line tells the server so. */
watch(
  line,
  async (item) => {
    if (!item || !may('signDisposition') || !(batch.value?.state === 'open' || batch.value?.state === 'signing')) return
    await take(api.POST('/api/batches/{id}/lines/{item}/opened', { params: { path: { id, item } } })).catch(() => {})
    await client.invalidateQueries({ queryKey: ['batch', id] })
  },
  { immediate: true },
)
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (!markable.value || targets.value.length === 0 || (e.target as HTMLElement).closest('input, textarea, select, .el-overlay') || e.ctrlKey || e.metaKey) return
  if (e.key === 'd') void mark('destroy')
  if (e.key === 'e') {
    e.preventDefault()
    extending.value = true
  }
})
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <article v-else-if="batch" class="batch">
    <header>
      <p class="small quiet">Batch {{ batch.id }} · <RouterLink v-if="batch.series.id" :to="`/schedule/${batch.series.id}`">{{ batch.series.code }}</RouterLink><RouterLink v-else to="/schedule/blankets">{{ batch.series.code }}</RouterLink> · {{ batch.unit }} · opened by {{ batch.openedBy }}, {{ moment(batch.openedAt) }}</p>
      <h1>{{ batch.series.title }}</h1>
      <p class="counts">
        {{ plural(batch.lines, 'item') }}, {{ bytes(batch.bytes) }}, due since {{ day(batch.oldest) }} · <strong>{{ count(batch.toDestroy) }}</strong> to destroy, <strong>{{ count(batch.toExtend) }}</strong> to extend · {{ count(batch.opened) }} of {{ count(batch.lines) }} opened
      </p>
    </header>
    <ol class="stages" aria-label="Stages">
      <li v-for="(stage, i) in batch.stages" :key="i" :class="{ signed: i < batch.signOffs.length }">
        <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true"><circle cx="7" cy="7" r="5.500" :fill="i < batch.signOffs.length ? 'currentColor' : 'none'" stroke="currentColor" stroke-width="1.500" /></svg>
        <span v-if="batch.signOffs[i]"><strong>{{ batch.signOffs[i]!.by }}</strong> signed stage {{ i + 1 }}, {{ moment(batch.signOffs[i]!.at) }} <span class="quiet">after {{ count(batch.signOffs[i]!.linesOpened) }} of {{ count(batch.signOffs[i]!.lines) }} had been opened: “{{ batch.signOffs[i]!.comment }}”</span></span>
        <span v-else>Stage {{ i + 1 }}: a {{ roleWords[stage.role] }}</span>
      </li>
    </ol>
    <p v-if="batch.state === 'done'" class="result">
      {{ count(batch.destroyed) }} destroyed, {{ count(batch.extended) }} extended, {{ count(batch.droppedOut) }} dropped out, {{ count(batch.failed) }} failed.
      <RouterLink v-if="batch.certificateId" :to="`/schedule/certificates?certificate=${batch.certificateId}`">Certificate {{ batch.certificateNumber }}</RouterLink>
      <el-button v-if="batch.failed && may('signDisposition')" size="small" :loading="busy" @click="retry">Try the failed again</el-button>
    </p>
    <p v-else-if="batch.state === 'executing'" class="result" role="status">Being destroyed; the tray at the top shows how far it is.</p>
    <p v-if="problem && !signing && !extending" class="problem" role="alert">{{ problem.message }}</p>
    <div v-if="maySign || markable" class="acts">
      <el-button v-if="maySign" :type="isLast ? 'danger' : 'primary'" @click="((signing = true), (problem = null))">{{ button }}</el-button>
      <template v-if="markable">
        <el-button :disabled="targets.length === 0" @click="mark('destroy')">Mark to destroy <kbd>d</kbd></el-button>
        <el-button :disabled="targets.length === 0" @click="((extending = true), (problem = null))">Extend {{ targets.length > 1 ? count(targets.length) : '' }} <kbd>e</kbd></el-button>
      </template>
      <el-button v-if="may('signDisposition')" @click="withdrawing = true">Withdraw the batch</el-button>
    </div>
    <p v-if="!maySign && (batch.state === 'open' || batch.state === 'signing') && batch.mayNotSign" class="small quiet why">{{ batch.mayNotSign }}</p>
    <div class="lines panel" :class="{ short: !!line }">
      <DataTable v-model:selected="selected" name="lines" label="Items of the batch" :rows="rows" :columns="columns" :total="batch.lines" word="item" :selectable="markable" :open="line" :loading="pages.isFetching.value" :has-more="pages.hasNextPage.value" @more="pages.fetchNextPage()" @open="line = $event.id">
        <template #title="{ row }"><span :title="row.item.path">{{ row.item.title }}</span></template>
        <template #mark="{ row }"><span v-if="row.state !== 'waiting'" :title="row.outcome ?? undefined">{{ outcomes[row.state] }}</span><span v-else-if="row.mark === 'extend'" class="sea">extend to {{ day(row.extendUntil) }}</span><span v-else class="copper">destroy</span></template>
        <template #due="{ row }">{{ day(row.item.tideline.disposableFrom) }}</template>
        <template #opened="{ row }">{{ row.openedBy ?? '–' }}</template>
        <template #bytes="{ row }">{{ bytes(row.item.bytes) }}</template>
      </DataTable>
    </div>
    <ItemPane v-if="line" :id="line" :key="line" in-batch @close="line = null" />

    <el-dialog v-model="signing" :title="button" width="480" append-to-body>
      <p>{{ count(batch.opened) }} of {{ plural(batch.lines, 'item') }} {{ batch.opened === 1 ? 'was' : 'were' }} opened before this signature; the number stays with it.</p>
      <p v-if="isLast">This is the last stage. <strong>{{ plural(batch.toDestroy, 'item') }}</strong> ({{ bytes(batch.bytes) }} with what is extended) are destroyed at once and cannot be brought back. {{ batch.toExtend ? `${count(batch.toExtend)} are extended.` : '' }}</p>
      <label class="label" for="comment">Comment</label>
      <el-input id="comment" v-model="comment" type="textarea" :rows="2" maxlength="1000" />
      <template v-if="isLast"><label class="label" for="typed">Type “destroy” to confirm</label><el-input id="typed" v-model="typed" autocomplete="off" /></template>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer><el-button @click="signing = false">Not yet</el-button><el-button :type="isLast ? 'danger' : 'primary'" :loading="busy" :disabled="!comment.trim() || (isLast && typed.trim().toLowerCase() !== 'destroy')" @click="sign">{{ button }}</el-button></template>
    </el-dialog>
    <el-dialog v-model="extending" :title="`Extend ${plural(targets.length, 'item')}`" width="440" append-to-body>
      <label class="label" for="until">Keep until</label><input id="until" v-model="until" class="box" type="date" />
      <label class="label" for="why-extend">Why</label><el-input id="why-extend" v-model="why" type="textarea" :rows="2" maxlength="1000" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer><el-button @click="extending = false">Leave it</el-button><el-button type="primary" :disabled="!until || !why.trim()" :loading="busy" @click="mark('extend')">Extend {{ plural(targets.length, 'item') }}</el-button></template>
    </el-dialog>
    <el-dialog v-model="withdrawing" title="Withdraw the batch" width="440" append-to-body>
      <p>Its items are due again; signatures and marks are gone, the ledger keeps them.</p>
      <label class="label" for="why-withdraw">Why</label><el-input id="why-withdraw" v-model="comment" />
      <template #footer><el-button @click="withdrawing = false">Leave it</el-button><el-button type="primary" :loading="busy" @click="withdraw">Withdraw</el-button></template>
    </el-dialog>
  </article>
</template>

<style scoped>
.batch { display: grid; grid-template-columns: minmax(0, 1fr); gap: 12px }
header p { margin: 0 }
h1 { font-size: 23px }
.stages { list-style: none; margin: 0; padding: 0; display: grid; gap: 5px }
.stages li { display: grid; grid-template-columns: 20px 1fr; align-items: baseline; color: var(--ink-2) }
.stages li.signed { color: var(--sea) }
.stages strong, .stages .signed span { color: var(--ink) }
.stages svg { align-self: center }
.acts { display: flex; flex-wrap: wrap; gap: 8px }
.acts .el-button { margin: 0 }
.acts kbd { margin-left: 6px }
.why, .result { margin: 0 }
.lines { height: 420px; display: flex; flex-direction: column }
.lines.short { height: 240px }
.sea { color: var(--sea) }
.copper { color: var(--copper) }
.box { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--line-2); border-radius: var(--radius); height: 32px; padding: 0 8px; width: 100%; margin-bottom: 8px }
</style>
