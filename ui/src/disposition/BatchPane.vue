<script setup lang="ts">
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref, watch } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import BatchResult from './BatchResult.vue'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { bytes, count, day, moment, monthWords, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import { roleWords } from '@/shared/words'
import ItemPane from '@/content/ItemPane.vue'
import MarkDialog from './MarkDialog.vue'
import { noDetails, type MarkDetails } from './marks'
import { useTypedText } from '@/shared/typed'
import { itemQuery } from '@/content/useItem'
import { useLoaded } from '@/shared/loaded'

const { id } = defineProps<{ id: number }>()
const client = useQueryClient()
const { number } = useUrl()
const line = number('line')
const shownLine = useLoaded(line, itemQuery)
const path = { params: { path: { id } } }
const { data: batch, error } = useQuery({
  queryKey: ['batch', id],
  queryFn: () => take(api.GET('/api/batches/{id}', path)),
})
const pages = useInfiniteQuery({
  queryKey: ['batch', id, 'lines'],
  queryFn: ({ pageParam }) =>
    take(api.GET('/api/batches/{id}/lines', { params: { path: { id }, query: { cursor: pageParam, limit: 200 } } })),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
})
type Row = Schemas['LineView'] & { id: number }
const rows = computed<Row[]>(
  () => pages.data.value?.pages.flatMap((p) => p.lines.map((l) => ({ ...l, id: l.item.id }))) ?? [],
)
const selected = ref(new Set<number>())
const comment = useTypedText(`batch.${id}.comment`)
const typed = ref('')
const signing = ref(false)
const withdrawing = ref(false)
type Other = 'extend' | 'refile' | 'transfer' | 'ask'
/** The mark that is being asked about. */
const marking = ref<Other | null>(null)
const receiving = ref(false)
const receipt = ref('')
const { act, busy, problem } = useAct(['batches'], {
  refused: async (p) => p.code === 'stale' && client.invalidateQueries({ queryKey: ['batch', id] }),
})

/** Typed before what cannot be undone. */
const word = computed(() => (batch.value?.toDestroy ? 'destroy' : batch.value?.toTransfer ? 'hand over' : 'carry out'))
const toBeGone = computed(() => (batch.value?.toDestroy ?? 0) + (batch.value?.toTransfer ?? 0))
const doing = computed(
  () =>
    [
      batch.value?.toDestroy ? `destroy ${count(batch.value.toDestroy)}` : '',
      batch.value?.toTransfer ? `hand over ${count(batch.value.toTransfer)}` : '',
    ]
      .filter(Boolean)
      .join(', ') || 'carry it out',
)
const isLast = computed(() => !!batch.value && batch.value.signOffs.length === batch.value.stages.length - 1)
const maySign = computed(
  () =>
    may('signDisposition') &&
    !!batch.value &&
    !batch.value.mayNotSign &&
    (batch.value.state === 'open' || batch.value.state === 'signing'),
)
const markable = computed(() => may('signDisposition') && batch.value?.state === 'open')
const targets = computed(() => (selected.value.size ? [...selected.value] : line.value ? [line.value] : []))
const button = computed(() =>
  isLast.value
    ? `Sign and ${doing.value}`
    : `Sign stage ${(batch.value?.signOffs.length ?? 0) + 1} of ${batch.value?.stages.length ?? 2}`,
)

const question = computed(() => rows.value.find((r) => r.id === line.value)?.question ?? null)
const columns: Column[] = [
  { key: 'title', label: 'Item', width: 200, grow: true },
  { key: 'mark', label: 'Mark', width: 150 },
  { key: 'due', label: 'Due since', width: 100 },
  { key: 'opened', label: 'Opened by', width: 120 },
  { key: 'bytes', label: 'Size', width: 76, align: 'right' },
]
const outcomes: Record<Schemas['LineState'], string> = {
  waiting: '',
  destroying: 'being destroyed',
  bundled: 'in the bundle',
  destroyed: 'destroyed',
  transferred: 'handed over',
  refiled: 're-filed',
  extended: 'extended',
  droppedOut: 'dropped out',
  failed: 'failed',
}

const mark = (as: Schemas['Mark'], details: MarkDetails = {}) =>
  act(async () => {
    await take(
      api.POST('/api/batches/{id}/marks', {
        ...path,
        body: { ...noDetails, ...details, items: targets.value, mark: as },
      }),
    )
    selected.value = new Set()
    marking.value = null
  })
function ask(as: Other) {
  problem.value = null
  if (as === 'transfer') void mark('transfer')
  else marking.value = as
}
async function receive() {
  if (
    await act(() =>
      take(
        api.POST('/api/bundles/{id}/receipt', {
          params: { path: { id: batch.value!.bundle!.id } },
          ...ifMatch(batch.value!.bundle!.revision),
          body: { receipt: receipt.value },
        }),
      ),
    )
  )
    receiving.value = false
}
function beginSigning() {
  signing.value = true
  problem.value = null
}
const signable = computed(
  () => !!comment.value.trim() && (!isLast.value || typed.value.trim().toLowerCase() === word.value),
)
async function sign() {
  if (!signable.value || busy.value) return
  const done = await act(() =>
    take(
      api.POST('/api/batches/{id}/sign-offs', {
        ...path,
        ...ifMatch(batch.value!.revision),
        body: { comment: comment.value },
      }),
    ),
  )
  if (done) {
    signing.value = false
    comment.value = typed.value = ''
    ElMessage({
      message:
        batch.value?.state === 'executing' || batch.value?.state === 'done'
          ? 'Signed. It is being carried out.'
          : 'Signed. The next stage is asked.',
      type: 'success',
    })
  }
}
const withdraw = async () =>
  (await act(() => take(api.POST('/api/batches/{id}/withdrawal', { ...path, body: { comment: comment.value } })))) &&
  (withdrawing.value = false)
const retry = () => act(() => take(api.POST('/api/batches/{id}/retry', path)))

/** What was really looked at is counted: opening a line tells the server so. */
watch(
  // Also where the batch comes after the line: the address named both.
  [line, () => batch.value?.state],
  async ([item, state]) => {
    if (!item || !may('signDisposition') || !(state === 'open' || state === 'signing')) return
    await take(api.POST('/api/batches/{id}/lines/{item}/opened', { params: { path: { id, item } } })).catch(() => {})
    await client.invalidateQueries({ queryKey: ['batch', id] })
  },
  { immediate: true },
)
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if ((e.target as HTMLElement).closest('input, textarea, select, .el-overlay') || e.ctrlKey || e.metaKey || e.altKey)
    return
  if (e.key === 's' && maySign.value) {
    e.preventDefault()
    beginSigning()
  }
  if (!markable.value || targets.value.length === 0) return
  if (e.key === 'd') void mark('destroy')
  const other = ({ e: 'extend', r: 'refile', t: 'transfer', a: 'ask' } as const)[e.key]
  if (other) {
    e.preventDefault()
    ask(other)
  }
})
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <article v-else-if="batch" class="batch">
    <header>
      <p class="small quiet">
        Batch {{ batch.id }} ·
        <RouterLink v-if="batch.series.id" :to="`/schedule/${batch.series.id}`">{{
          batch.series.code
        }}</RouterLink><RouterLink v-else to="/schedule/blankets">{{ batch.series.code }}</RouterLink> ·
        {{ batch.unit }} · opened by {{ batch.openedBy }}, {{ moment(batch.openedAt) }}
      </p>
      <h1>
        {{ batch.series.title }}<template v-if="batch.month">, {{ monthWords(batch.month) }}</template>
      </h1>
      <p class="counts">
        {{ plural(batch.lines, 'item') }}, {{ bytes(batch.bytes) }}, due since {{ day(batch.oldest) }} ·
        <template
          v-for="[n, w] in (
            [
              [batch.toDestroy, 'to destroy'],
              [batch.toTransfer, 'to hand over'],
              [batch.toExtend, 'to extend'],
              [batch.toRefile, 'to re-file'],
              [batch.asked, batch.asked === 1 ? 'question open' : 'questions open'],
            ] as const
          ).filter(([n]) => n)"
          :key="w"
          ><strong>{{ count(n) }}</strong> {{ w }} ·
        </template>
        {{ count(batch.opened) }} of {{ count(batch.lines) }} opened
      </p>
    </header>
    <ol class="stages" aria-label="Stages">
      <li v-for="(stage, i) in batch.stages" :key="i" :class="{ signed: i < batch.signOffs.length }">
        <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
          <circle
            cx="7"
            cy="7"
            r="5.500"
            :fill="i < batch.signOffs.length ? 'currentColor' : 'none'"
            stroke="currentColor"
            stroke-width="1.500"
          />
        </svg>
        <span v-if="batch.signOffs[i]"
          ><strong>{{ batch.signOffs[i]!.by }}</strong> signed stage {{ i + 1 }}, {{ moment(batch.signOffs[i]!.at) }}
          <span class="quiet"
            >after {{ count(batch.signOffs[i]!.linesOpened) }} of {{ count(batch.signOffs[i]!.lines) }} had been opened:
            “{{ batch.signOffs[i]!.comment }}”</span
          ></span
        >
        <span v-else
          >Stage {{ i + 1 }}: {{ stage.person || `a ${roleWords[stage.role]}`
          }}<template v-if="stage.deputy">, deputy {{ stage.deputy }}</template
          ><template v-if="i === batch.signOffs.length && batch.stageDue"
            >,
            <span :class="{ copper: batch.overdue }"
              >{{ batch.overdue ? 'overdue since' : 'until' }} {{ day(batch.stageDue) }}</span
            ></template
          ></span
        >
      </li>
    </ol>
    <BatchResult :batch="batch" :busy="busy" @retry="retry" />
    <p v-if="batch.bundle" class="result">
      Bundle for the archive: {{ plural(batch.bundle.items, 'item') }}, {{ bytes(batch.bundle.bytes) }}.
      <template v-if="batch.bundle.receivedAt"
        >The archive has it since {{ moment(batch.bundle.receivedAt) }} as “{{ batch.bundle.receipt }}”, noted by
        {{ batch.bundle.receivedBy }}.</template
      >
      <template v-else
        ><a v-if="may('signDisposition')" :href="`/api/bundles/${batch.bundle.id}.zip`" download
          >Take the bundle (BagIt, ZIP)</a
        >
        {{ ' ' }}
        <el-button v-if="may('signDisposition')" size="small" @click="((receiving = true), (problem = null))"
          >The archive has it …</el-button
        ></template
      >
    </p>
    <p v-if="problem && !signing && !marking && !receiving" class="problem" role="alert">{{ problem.message }}</p>
    <div v-if="maySign || markable" class="acts">
      <el-button v-if="maySign" :type="isLast ? 'danger' : 'primary'" @click="beginSigning"
        >{{ button }} <kbd>s</kbd></el-button
      >
      <template v-if="markable">
        <el-button :disabled="targets.length === 0" @click="mark('destroy')">Destroy <kbd>d</kbd></el-button>
        <el-button :disabled="targets.length === 0" @click="ask('extend')">Extend <kbd>e</kbd></el-button>
        <el-button :disabled="targets.length === 0" @click="ask('refile')">Re-file <kbd>r</kbd></el-button>
        <el-button :disabled="targets.length === 0" @click="ask('transfer')">Hand over <kbd>t</kbd></el-button>
        <el-button :disabled="targets.length === 0" @click="ask('ask')">Ask another <kbd>a</kbd></el-button>
      </template>
      <el-button v-if="may('signDisposition')" @click="withdrawing = true">Withdraw the batch</el-button>
    </div>
    <p
      v-if="!maySign && (batch.state === 'open' || batch.state === 'signing') && batch.mayNotSign"
      class="small quiet why"
    >
      {{ batch.mayNotSign }}
    </p>
    <div class="lines panel" :class="{ short: !!line }">
      <DataTable
        v-model:selected="selected"
        name="lines"
        label="Items of the batch"
        :rows="rows"
        :columns="columns"
        :total="batch.lines"
        word="item"
        :selectable="markable"
        :open="line"
        :loading="pages.isFetching.value"
        :has-more="pages.hasNextPage.value"
        @more="pages.fetchNextPage()"
        @open="line = $event.id"
      >
        <template #title="{ row }"
          ><span :title="row.item.path">{{ row.item.title }}</span></template
        >
        <template #mark="{ row }"
          ><span v-if="row.state !== 'waiting'" :title="row.outcome ?? undefined">{{ outcomes[row.state] }}</span
          ><span v-else-if="row.mark === 'extend'" class="sea" :title="row.extendWhy ?? undefined"
            >extend to {{ day(row.extendUntil) }}</span
          ><span v-else-if="row.mark === 'refile'" class="sea">re-file under {{ row.refileTo?.code }}</span
          ><span v-else-if="row.mark === 'transfer'" class="sea">hand over</span
          ><span v-else-if="row.mark === 'ask'" class="copper" :title="row.question?.text">{{
            row.question?.answer ? 'answered' : `asked ${row.question?.askedOf}`
          }}</span
          ><span v-else class="copper">destroy</span></template
        >
        <template #due="{ row }">{{ day(row.item.tideline.disposableFrom) }}</template>
        <template #opened="{ row }">{{ row.openedBy ?? '–' }}</template>
        <template #bytes="{ row }">{{ bytes(row.item.bytes) }}</template>
      </DataTable>
    </div>
    <p v-if="question" class="question">
      <strong>{{ question.askedBy }} asked {{ question.askedOf }}:</strong> “{{ question.text }}”
      <template v-if="question.answer"
        ><br /><strong>{{ question.askedOf }}, {{ moment(question.answeredAt!) }}:</strong> “{{
          question.answer
        }}”</template
      ><span v-else class="quiet"> No answer yet.</span>
    </p>
    <ItemPane v-if="shownLine" :id="shownLine" :key="shownLine" in-batch @close="line = null" />

    <el-dialog v-model="signing" :title="button" width="480" append-to-body @keydown.ctrl.enter="sign">
      <p>
        {{ count(batch.opened) }} of {{ plural(batch.lines, 'item') }} {{ batch.opened === 1 ? 'was' : 'were' }} opened
        before this signature; the number stays with it.
      </p>
      <p v-if="isLast">
        This is the last stage. <strong>{{ plural(toBeGone, 'item') }}</strong> of {{ bytes(batch.bytes) }}
        {{ toBeGone === 1 ? 'leaves' : 'leave' }} the source at once and cannot be brought back.
        <template v-if="batch.toTransfer"
          >{{ count(batch.toTransfer) }} of them go into a bundle first, which is verified before anything is removed. </template
        ><template v-if="batch.toExtend">{{ count(batch.toExtend) }} are extended. </template
        ><template v-if="batch.toRefile">{{ count(batch.toRefile) }} are re-filed.</template>
      </p>
      <label class="label" for="comment">Comment</label>
      <el-input id="comment" v-model="comment" type="textarea" :rows="2" maxlength="1000" />
      <template v-if="isLast"
        ><label class="label" for="typed">Type “{{ word }}” to confirm</label
        ><el-input id="typed" v-model="typed" autocomplete="off"
      /></template>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer
        ><el-button @click="signing = false">Not yet</el-button
        ><el-button :type="isLast ? 'danger' : 'primary'" :loading="busy" :disabled="!signable" @click="sign">{{
          button
        }}</el-button></template
      >
    </el-dialog>
    <MarkDialog
      v-if="marking && marking !== 'transfer'"
      :marking="marking"
      :items="targets.length"
      :series-id="batch.series.id"
      :busy="busy"
      :problem="problem"
      @mark="mark(marking, $event)"
      @close="marking = null"
    />
    <el-dialog v-model="receiving" title="The archive has the bundle" width="460" append-to-body>
      <p>The copy here is removed; certificate, stubs and hashes stay.</p>
      <label class="label" for="receipt">What the archive calls it</label
      ><el-input id="receipt" v-model="receipt" maxlength="200" placeholder="Accession 2026/114" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer
        ><el-button @click="receiving = false">Not yet</el-button
        ><el-button type="primary" :disabled="!receipt.trim()" :loading="busy" @click="receive"
          >Note the receipt</el-button
        ></template
      >
    </el-dialog>
    <el-dialog v-model="withdrawing" title="Withdraw the batch" width="440" append-to-body>
      <p>Its items are due again; signatures and marks are gone, the ledger keeps them.</p>
      <label class="label" for="why-withdraw">Why</label><el-input id="why-withdraw" v-model="comment" />
      <template #footer
        ><el-button @click="withdrawing = false">Leave it</el-button
        ><el-button type="primary" :loading="busy" @click="withdraw">Withdraw</el-button></template
      >
    </el-dialog>
  </article>
</template>

<style scoped>
.batch {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
header p {
  margin: 0;
}
h1 {
  font-size: 23px;
}
.stages {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 5px;
}
.stages li {
  display: grid;
  grid-template-columns: 20px 1fr;
  align-items: baseline;
  color: var(--ink-2);
}
.stages li.signed {
  color: var(--sea);
}
.stages strong,
.stages .signed span {
  color: var(--ink);
}
.stages svg {
  align-self: center;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.acts .el-button {
  margin: 0;
}
.acts kbd {
  margin-left: 6px;
}
.question {
  margin: 0;
  padding: 8px 12px;
  background: var(--sheet-2);
  border: 1px solid var(--line);
  border-radius: var(--radius);
}
.why,
.result {
  margin: 0;
}
.lines {
  height: 420px;
  display: flex;
  flex-direction: column;
}
.lines.short {
  height: 240px;
}
.sea {
  color: var(--sea);
}
.copper {
  color: var(--copper);
}
</style>
