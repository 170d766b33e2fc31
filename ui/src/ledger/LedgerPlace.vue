<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { refDebounced, useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { count, moment } from '@/shared/format'
import { useUrl } from '@/shared/url'
import VerificationReport from './VerificationReport.vue'
import Workbench from '@/shared/Workbench.vue'
import LedgerEntry from './LedgerEntry.vue'
import { detailsOf, runsOf, sentence, severityOf } from './sentence'

const { list, put, text, number } = useUrl()
const typed = ref(text('words').value)
const words = refDebounced(typed, 250)
watch(words, (w) => w !== text('words').value && put({ words: w }))
const query = computed(() => ({
  words: text('words').value || undefined,
  who: text('who').value || undefined,
  verb: text('verb').value || undefined,
  kind: text('kind').value || undefined,
  subject: text('subject').value || undefined,
  day: text('day').value || undefined,
}))
const pages = useInfiniteQuery({
  queryKey: computed(() => ['ledger', query.value]),
  queryFn: ({ pageParam }) =>
    take(api.GET('/api/ledger', { params: { query: { ...query.value, cursor: pageParam, limit: 100 } } })),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
  placeholderData: keepPreviousData,
})
const entries = computed(
  () => pages.data.value?.pages.flatMap((p) => p.entries.map((e) => ({ ...e, id: e.sequence }))) ?? [],
)
/** Runs of like entries are one line, unless each is wanted. */
const each = ref(false)
const rows = computed(() => (each.value ? entries.value.map((e) => ({ ...e, times: 1 })) : runsOf(entries.value)))
/** Runs shorten the list; more is read until there is something to look at, within reason. */
watch(
  () => [rows.value.length, pages.isFetching.value] as const,
  ([shown, busy]) => {
    if (!busy && shown < 40 && pages.hasNextPage.value && (pages.data.value?.pages.length ?? 0) < 12)
      void pages.fetchNextPage()
  },
)
const total = computed(() => pages.data.value?.pages[0]?.total ?? 0)
const open = number('entry')
/** An address may open an entry that lies far below what the list has loaded. */
const alone = useQuery({
  queryKey: computed(() => ['ledger-entry', open.value]),
  queryFn: async () =>
    (await take(api.GET('/api/ledger', { params: { query: { upTo: open.value!, limit: 1 } } }))).entries[0] ?? null,
  enabled: computed(() => !!open.value),
})
const entry = computed(
  () =>
    entries.value.find((r) => r.id === open.value) ??
    (alone.data.value?.sequence === open.value ? alone.data.value : undefined),
)
const chosen = computed(() =>
  (['who', 'verb', 'kind', 'subject', 'day'] as const)
    .filter((k) => query.value[k])
    .map((k) => ({ key: k, value: query.value[k]! })),
)
const report = ref<Schemas['VerificationView'] | null>(null)
const { act, busy, problem } = useAct([])

const verify = () =>
  act(async () => {
    report.value = await take(api.GET('/api/ledger/verification'))
    await pages.refetch()
  })
watch(
  () => list('verify')[0],
  (asked) => {
    if (asked === 'now') void put({ verify: null }).then(verify)
  },
  { immediate: true },
)
const columns: Column[] = [
  { key: 'sequence', label: 'No.', width: 70, align: 'right' },
  { key: 'at', label: 'When', width: 150 },
  { key: 'severity', label: 'Weight', width: 90 },
  { key: 'who', label: 'Who', width: 190 },
  { key: 'verb', label: 'What', width: 260, grow: true },
  { key: 'note', label: 'Detail', width: 220, grow: true },
]
const narrow = columns.filter((c) => ['sequence', 'who', 'verb'].includes(c.key))
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.key === 'Escape' && open.value && !(e.target as HTMLElement).closest('input, .el-overlay')) open.value = null
})
</script>

<template>
  <Workbench name="ledger" :subject="!!entry" :list-width="560">
    <template #list>
      <header class="head">
        <h1>Ledger</h1>
        <span class="quiet small">everything that was done here, append-only</span>
        <span class="acts"
          ><a v-if="may('verifyLedger')" href="/api/ledger/export" download>Export with proofs</a
          ><el-button v-if="may('verifyLedger')" :loading="busy" @click="verify">Verify the ledger</el-button></span
        >
      </header>
      <VerificationReport v-if="report" :report="report" />
      <p v-if="problem" class="problem pad" role="alert">{{ problem.message }}</p>
      <div class="filters">
        <el-input
          v-model="typed"
          class="words"
          placeholder="Anything in an entry"
          aria-label="Search the ledger"
          clearable
        /><button
          v-for="c in chosen"
          :key="c.key"
          class="chip"
          aria-pressed="true"
          :title="`Remove the filter ${c.key}`"
          @click="put({ [c.key]: null })"
        >
          {{ c.key }}: {{ c.value }} ×
        </button>
        <input
          type="date"
          class="day"
          aria-label="Of one day"
          :value="text('day').value"
          @change="put({ day: ($event.target as HTMLInputElement).value })"
        />
        <el-checkbox v-model="each" size="small">each entry by itself</el-checkbox>
      </div>
      <DataTable
        :name="entry ? 'ledger-narrow' : 'ledger'"
        label="Ledger entries"
        :rows="rows"
        :columns="entry ? narrow : columns"
        :total="total"
        word="row"
        :loading="pages.isFetching.value"
        :has-more="pages.hasNextPage.value"
        :open="open"
        @more="pages.fetchNextPage()"
        @open="open = $event.id"
      >
        <template #sequence="{ row }">{{ count(row.sequence) }}</template>
        <template #at="{ row }"
          ><span :title="row.at">{{ moment(row.at) }}</span></template
        >
        <template #who="{ row }"
          >{{ row.who }}<span v-if="row.onBehalfOf" class="quiet"> for {{ row.onBehalfOf }}</span></template
        >
        <template #severity="{ row }"
          ><span :class="{ lacking: severityOf(row.verb).mark === '▲' }"
            ><span aria-hidden="true">{{ severityOf(row.verb).mark }}</span> {{ severityOf(row.verb).word }}</span
          ></template
        >
        <template #verb="{ row }"
          ><span class="said">{{ sentence(row, row.times) }}</span></template
        >
        <template #note="{ row }"
          ><span class="quiet">{{
            row.reason ? `“${row.reason}”` : row.times > 1 ? '' : detailsOf(row)
          }}</span></template
        >
        <template #empty
          ><h2>No entry fits</h2>
          <p>Every change and every refused attempt that matters is an entry here.</p></template
        >
      </DataTable>
    </template>
    <template #subject>
      <LedgerEntry v-if="entry" :entry="entry" @narrow="(by) => put({ ...by, entry: null })" />
    </template>
  </Workbench>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 12px 16px 8px;
  flex-wrap: wrap;
}
.acts {
  margin-left: auto;
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h1 {
  font-size: 18px;
}
.filters {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  padding: 0 16px 10px;
  border-bottom: 1px solid var(--line);
}
.words {
  width: 240px;
}
.hash {
  font-size: 12px;
  overflow-wrap: anywhere;
  color: var(--ink-2);
}
.pad {
  padding: 0 16px;
}
.said {
  display: inline-block;
}
.said::first-letter {
  text-transform: uppercase;
}
.day {
  font: inherit;
  font-size: 13px;
  height: 28px;
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  padding: 0 6px;
}
</style>
