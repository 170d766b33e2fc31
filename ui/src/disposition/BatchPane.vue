<script setup lang="ts">
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import BatchBundle from './BatchBundle.vue'
import BatchHead from './BatchHead.vue'
import BatchResult from './BatchResult.vue'
import BatchStages from './BatchStages.vue'
import LineMark from './LineMark.vue'
import SignBatch from './SignBatch.vue'
import WithdrawBatch from './WithdrawBatch.vue'
import { isLast, signWords } from './signing'
import { api, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { bytes, day, moment } from '@/shared/format'
import { useUrl } from '@/shared/url'
import ItemPane from '@/content/ItemPane.vue'
import MarkDialog from './MarkDialog.vue'
import { noDetails, type MarkDetails } from './marks'
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
const signing = ref(false)
const withdrawing = ref(false)
type Other = 'extend' | 'refile' | 'transfer' | 'ask'
/** The mark that is being asked about. */
const marking = ref<Other | null>(null)
const { act, busy, problem } = useAct(['batches'], {
  refused: async (p) => p.code === 'stale' && client.invalidateQueries({ queryKey: ['batch', id] }),
})

const maySign = computed(
  () =>
    may('signDisposition') &&
    !!batch.value &&
    !batch.value.mayNotSign &&
    (batch.value.state === 'open' || batch.value.state === 'signing'),
)
const markable = computed(() => may('signDisposition') && batch.value?.state === 'open')
const targets = computed(() => (selected.value.size ? [...selected.value] : line.value ? [line.value] : []))
const question = computed(() => rows.value.find((r) => r.id === line.value)?.question ?? null)
const columns: Column[] = [
  { key: 'title', label: 'Item', width: 200, grow: true },
  { key: 'mark', label: 'Mark', width: 150 },
  { key: 'due', label: 'Due since', width: 100 },
  { key: 'opened', label: 'Opened by', width: 120 },
  { key: 'bytes', label: 'Size', width: 76, align: 'right' },
]
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
function beginSigning() {
  signing.value = true
  problem.value = null
}
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
    <BatchHead :batch="batch" />
    <BatchStages :batch="batch" />
    <BatchResult :batch="batch" :busy="busy" @retry="retry" />
    <BatchBundle v-if="batch.bundle" :bundle="batch.bundle" />
    <p v-if="problem && !marking" class="problem" role="alert">{{ problem.message }}</p>
    <div v-if="maySign || markable" class="acts">
      <el-button v-if="maySign" :type="isLast(batch) ? 'danger' : 'primary'" @click="beginSigning"
        >{{ signWords(batch) }} <kbd>s</kbd></el-button
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
        <template #mark="{ row }"><LineMark :line="row" /></template>
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

    <SignBatch v-if="signing" :batch="batch" @close="signing = false" />
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
    <WithdrawBatch v-if="withdrawing" :batch="batch" @close="withdrawing = false" />
  </article>
</template>

<style scoped>
.batch {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
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
.why {
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
</style>
