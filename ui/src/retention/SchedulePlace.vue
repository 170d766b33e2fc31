<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced, useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { may, today } from '@/shared/session'
import { api, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { bytes, count } from '@/shared/format'
import Tideline from '@/shared/Tideline.vue'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import NewSeries from './NewSeries.vue'
import SeriesPane from './SeriesPane.vue'
import SeriesSide from './SeriesSide.vue'
import { useLoaded } from '@/shared/loaded'
import { seriesQuery } from './seriesQuery'

const { route, router, list, put } = useUrl()
const open = computed(() => (route.params.id ? Number(route.params.id) : null))
const shown = useLoaded(open, seriesQuery)
const show = computed(() => list('show')[0] ?? 'all')
const typed = ref(list('words')[0] ?? '')
const words = refDebounced(
  computed(() => typed.value.trim()),
  200,
)
const sort = computed({
  get: () => list('sort')[0] ?? 'function',
  set: (s) => void put({ sort: s === 'function' ? null : s }),
})
const { data, error, isFetching, fetchNextPage, hasNextPage } = useInfiniteQuery({
  queryKey: computed(() => ['series', 'list', words.value, show.value, sort.value]),
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/api/series', {
        params: {
          query: { words: words.value || undefined, show: show.value, sort: sort.value, cursor: pageParam },
        },
      }),
    ),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
  placeholderData: keepPreviousData,
})
const rows = computed(() => data.value?.pages.flatMap((p) => p.series) ?? [])
const first = computed(() => data.value?.pages[0])
const kinds = [
  { key: 'all', label: 'All' },
  { key: 'active', label: 'Active' },
  { key: 'draft', label: 'With a draft' },
  { key: 'due', label: 'Due now' },
  { key: 'waiting', label: 'Waiting' },
  { key: 'retired', label: 'Retired' },
] as const
const year = computed(() => Number(today.value.slice(0, 4)))
const [from, to] = [computed(() => `${year.value - 12}-01-01`), computed(() => `${year.value + 14}-12-31`)]
const columns: Column[] = [
  { key: 'series', label: 'Series', width: 190, grow: true, sort: 'function' },
  { key: 'tideline', label: 'Tideline', width: 136 },
  { key: 'due', label: 'Due now', width: 74, align: 'right', sort: 'due' },
]
const wide: Column[] = [
  columns[0]!,
  { key: 'rule', label: 'Rule', width: 230 },
  { key: 'unit', label: 'Unit', width: 150, sort: 'unit' },
  columns[1]!,
  { key: 'items', label: 'Items', width: 74, align: 'right', sort: 'items' },
  { key: 'bytes', label: 'Size', width: 84, align: 'right', sort: 'bytes' },
  { key: 'waiting', label: 'Waiting', width: 74, align: 'right', sort: 'waiting' },
  columns[2]!,
]
const line = (s: Schemas['SeriesLine']) => ({
  start: s.earliest,
  cutoff: null,
  keepUntil: s.permanent ? 'permanent' : s.latest,
  disposableFrom: null,
})
const go = (id: number | null) =>
  router.push({ path: id ? `/schedule/${id}` : '/schedule', query: { ...route.query, whatif: undefined } })
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (
    e.key === 'Escape' &&
    open.value &&
    !(e.target as HTMLElement).closest('.el-overlay, .el-popper, input, textarea, .part, .sentence')
  )
    void go(null)
})
</script>

<template>
  <div class="place">
    <Workbench name="schedule" :subject="!!open" :side="!!open">
      <template #list>
        <header class="head">
          <h1>Series</h1>
          <span class="quiet small"
            >{{ count(first?.figures.all ?? 0) }} {{ words ? 'found' : 'in the schedule' }}</span
          >
          <RouterLink v-if="may('writeSchedule')" to="/schedule/drafts" class="small">Drafts</RouterLink>
          <RouterLink to="/schedule/spreadsheet" class="small">Spreadsheet</RouterLink>
          <el-button v-if="may('writeSchedule')" class="new" @click="put({ new: 'series' })">New series</el-button>
        </header>
        <div class="filters">
          <el-input
            v-model="typed"
            class="words"
            placeholder="Code, title, function"
            aria-label="Filter the series"
            clearable
            @change="put({ words: typed })"
          />
          <button
            v-for="k in kinds"
            :key="k.key"
            class="chip"
            :aria-pressed="show === k.key"
            @click="put({ show: k.key === 'all' ? null : k.key })"
          >
            {{ k.label }} {{ first?.figures[k.key] ?? '' }}
          </button>
        </div>
        <p v-if="error" class="problem pad" role="alert">{{ error.message }}</p>
        <DataTable
          v-model:sort="sort"
          :name="open ? 'series-narrow' : 'series'"
          label="Record series"
          tall
          :rows="rows"
          :columns="open ? columns : wide"
          :total="first?.total ?? 0"
          word="row"
          :loading="isFetching"
          :has-more="hasNextPage"
          :open="open"
          :group-of="
            (s, before) =>
              sort.endsWith('function') && s.function !== before?.function ? s.function || 'Without a function' : null
          "
          @open="go($event.id)"
          @more="fetchNextPage()"
        >
          <template #series="{ row }"
            ><div class="two">
              <span
                ><span class="quiet">{{ row.code }}</span> {{ row.title }}</span
              ><small class="quiet">{{
                row.state === 'draft'
                  ? 'not in force yet'
                  : row.state === 'retired'
                    ? 'retired'
                    : row.hasDraft
                      ? 'draft waits'
                      : open
                        ? row.rule
                        : row.description
              }}</small>
            </div></template
          >
          <template #rule="{ row }">{{ row.rule }}</template>
          <template #unit="{ row }">{{ row.unit }}</template>
          <template #tideline="{ row }"
            ><Tideline
              v-if="row.items > 0 && row.state === 'active'"
              :line="line(row)"
              :today="today"
              :from="from"
              :to="to"
          /></template>
          <template #items="{ row }">{{ count(row.items) }}</template>
          <template #bytes="{ row }">{{ bytes(row.bytes) }}</template>
          <template #waiting="{ row }">{{ row.waiting || '–' }}</template>
          <template #due="{ row }"
            ><strong v-if="row.due" class="due">{{ count(row.due) }}</strong
            ><span v-else>–</span></template
          >
          <template #empty
            ><h2>No series here</h2>
            <p>A record series says how long a class of records is kept, and what happens then.</p></template
          >
        </DataTable>
        <NewSeries
          v-if="list('new')[0] === 'series'"
          @close="put({ new: null })"
          @made="(id) => router.push(`/schedule/${id}`)"
        />
      </template>
      <template #subject><SeriesPane v-if="shown" :id="shown" :key="shown" /></template>
      <template #side><SeriesSide v-if="shown" :id="shown" :key="shown" /></template>
    </Workbench>
  </div>
</template>

<style scoped>
.place {
  height: 100%;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
}
.head {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 12px 16px 8px;
}
.new {
  margin-left: auto;
}
h1 {
  font-size: 18px;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 0 16px 10px;
  border-bottom: 1px solid var(--line);
}
.words {
  width: 190px;
}
.two {
  display: grid;
  line-height: 1.3;
}
.two > * {
  overflow: hidden;
  text-overflow: ellipsis;
}
.due {
  color: var(--copper);
}
.pad {
  padding: 8px 16px;
}
small {
  font-size: 12px;
}
</style>
