<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { count, moment } from '@/shared/format'
import SavedViews from '@/shared/SavedViews.vue'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import EventFacets from './EventFacets.vue'
import EventPane from './EventPane.vue'
import { term, useSpan } from './span'
import SpanPicker from './SpanPicker.vue'
import TimeChart from './TimeChart.vue'
import { actionWords, outcomeWords } from './words'

const { put, text, number } = useUrl()
const cql = computed({ get: () => text('cql').value, set: (q: string) => void put({ cql: q }) })
const typed = ref(cql.value)
watch(cql, (q) => (typed.value = q))
const open = number('event')
const { days, params } = useSpan('30')
/** A span that was dragged in the chart takes the place of the days. */
const span = computed(() =>
  text('from').value ? { from: text('from').value, before: text('before').value } : params.value,
)
const query = computed(() => ({ query: cql.value || undefined, ...span.value }))

const pages = useInfiniteQuery({
  queryKey: computed(() => ['events', query.value]),
  queryFn: ({ pageParam }) =>
    take(api.GET('/api/events', { params: { query: { ...query.value, cursor: pageParam, limit: 100 } } })),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
  placeholderData: keepPreviousData,
})
const rows = computed(() => pages.data.value?.pages.flatMap((p) => p.events) ?? [])
const total = computed(() => pages.data.value?.pages[0]?.total ?? 0)
const histogram = useQuery({
  queryKey: computed(() => ['events', 'histogram', query.value]),
  queryFn: () => take(api.GET('/api/events/histogram', { params: { query: query.value } })),
  placeholderData: keepPreviousData,
})
const exported = computed(() => new URLSearchParams(JSON.parse(JSON.stringify(query.value))).toString())

/** Narrows what is asked by one more value. */
function narrow(name: string, value: string) {
  const more = `${name} == ${term(value)}`
  void put({ cql: cql.value ? `(${cql.value}) and ${more}` : more })
}
const ask = () => put({ cql: typed.value.trim() })

const columns: Column[] = [
  { key: 'time', label: 'When', width: 150 },
  { key: 'actor', label: 'Who', width: 180 },
  { key: 'action', label: 'What', width: 115 },
  { key: 'object', label: 'Object', width: 200, grow: true },
  { key: 'outcome', label: 'Outcome', width: 92 },
  { key: 'address', label: 'Address', width: 112 },
  { key: 'network', label: 'Network', width: 76 },
  { key: 'place', label: 'Place', width: 92 },
  { key: 'device', label: 'Device', width: 76 },
  { key: 'channel', label: 'Channel', width: 96 },
]
const narrowColumns = columns.filter((c) => ['time', 'actor', 'action', 'object'].includes(c.key))
const given = (e: Schemas['EventView']) => (e.target ? ` → ${e.target}` : '')
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.key === 'Escape' && open.value && !(e.target as HTMLElement).closest('input, .el-overlay')) open.value = null
})
</script>

<template>
  <Workbench name="events" :subject="!!open" :list-width="620">
    <template #list>
      <header class="head">
        <form class="ask" role="search" @submit.prevent="ask">
          <el-input
            v-model="typed"
            placeholder='Words, or a query such as action = file.delete and address = "192.0.2.0/24"'
            aria-label="Search in activity"
            clearable
            @clear="put({ cql: null })"
          />
          <el-button native-type="submit" type="primary">Search</el-button>
        </form>
        <RouterLink
          v-if="cql && may('manageWatches')"
          class="el-button plain"
          :to="{ path: '/activity/watches', query: { from: cql } }"
          >Watch this</RouterLink
        >
        <RouterLink class="small" to="/activity/thread">Investigations</RouterLink>
        <SavedViews v-if="!open" place="activity" path="/activity/search" open="event" />
        <SpanPicker
          :model-value="days"
          @update:model-value="(d) => put({ days: d === '30' ? null : d, from: null, before: null })"
        />
      </header>
      <p v-if="pages.error.value" class="problem pad" role="alert">{{ pages.error.value.message }}</p>
      <p v-if="text('from').value" class="pad small">
        <button class="chip" aria-pressed="true" @click="put({ from: null, before: null })">
          {{ moment(text('from').value) }} to {{ moment(text('before').value) }} ×
        </button>
      </p>
      <EventFacets :query="query" @pick="narrow" />
      <TimeChart
        v-if="histogram.data.value"
        :histogram="histogram.data.value"
        @span="(from, before) => put({ from, before })"
      />
      <DataTable
        :name="open ? 'events-narrow' : 'events'"
        label="Events"
        :rows="rows"
        :columns="open ? narrowColumns : columns"
        :total="total"
        word="event"
        :loading="pages.isFetching.value"
        :has-more="pages.hasNextPage.value"
        :open="open"
        @more="pages.fetchNextPage()"
        @open="open = $event.id"
      >
        <template #time="{ row }"
          ><span :title="row.time">{{ moment(row.time) }}</span></template
        >
        <template #actor="{ row }">{{ row.actor ?? '–' }}</template>
        <template #action="{ row }">{{ actionWords(row.action) }}</template>
        <template #object="{ row }"
          >{{ row.object ?? '' }}<span class="quiet">{{ given(row) }}</span></template
        >
        <template #outcome="{ row }"
          ><span :class="{ failed: row.outcome === 'failure' }"
            >{{ row.outcome === 'failure' ? '▲ ' : '' }}{{ row.outcome ? outcomeWords[row.outcome] : '–' }}</span
          ></template
        >
        <template #address="{ row }">{{ row.address ?? '–' }}</template>
        <template #network="{ row }">{{ row.network ?? '–' }}</template>
        <template #place="{ row }">{{ row.place ?? row.country ?? '–' }}</template>
        <template #device="{ row }">{{ row.device ?? '–' }}</template>
        <template #channel="{ row }">{{ row.channel }}</template>
        <template #tools>
          <a :href="`/api/events.csv?${exported}`" download>CSV</a>
          <a :href="`/api/events.xlsx?${exported}`" download>XLSX</a>
          <a :href="`/api/events.jsonl?${exported}`" download>JSON Lines</a>
        </template>
        <template #empty
          ><h2>No event fits</h2>
          <p>
            Of the {{ days === 'all' ? 'events at hand' : 'time that is looked at' }} nothing is as asked. Look further
            back, or take a condition away.
          </p></template
        >
      </DataTable>
    </template>
    <template #subject>
      <EventPane
        v-if="open"
        :id="open"
        :key="open"
        @ask="(q) => put({ cql: q, event: null, from: null, before: null })"
      />
    </template>
  </Workbench>
  <span class="sr" role="status">{{ count(total) }} events found</span>
</template>

<style scoped>
.head {
  display: flex;
  gap: 12px;
  padding: 12px 16px 8px;
  align-items: center;
  flex-wrap: wrap;
}
.ask {
  display: flex;
  gap: 8px;
  flex: 1;
  min-width: 320px;
}
.pad {
  padding: 0 16px;
  margin: 0 0 6px;
}
.plain {
  text-decoration: none;
}
.failed {
  color: var(--copper);
}
</style>
