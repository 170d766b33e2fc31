<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { may, today } from '@/shared/session'
import { api, take } from '@/shared/api/client'
import { gathered, useShown } from '@/shared/parts'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { bytes, day, plural } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'
import StateMark from '@/shared/StateMark.vue'
import Tideline from '@/shared/Tideline.vue'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import ItemActs from './ItemActs.vue'
import ItemFilters from './ItemFilters.vue'
import ItemPane from './ItemPane.vue'
import ItemSide from './ItemSide.vue'
import { useItemQuery } from './query'
import QueryBuilder from './QueryBuilder.vue'
import SavedViews from '@/shared/SavedViews.vue'
import QueryField from '@/shared/QueryField.vue'
import { useLoaded } from '@/shared/loaded'
import { itemQuery } from './useItem'

const { query, forUrl, list, text, put, clear } = useItemQuery()
const { number } = useUrl()
const open = number('item')
const shown = useLoaded(open, itemQuery)
const cql = computed({ get: () => text('cql').value, set: (q) => void put({ cql: q }) })
/** Without a choice the query may order the list itself. */
const sort = computed({
  get: () => text('sort').value || (/\bsortby\b|\/relevant/i.test(cql.value) ? '' : '-modified'),
  set: (s) => void put({ sort: s === '-modified' ? null : s }),
})
const building = computed({
  get: () => list('builder').length > 0,
  set: (b) => void put({ builder: b ? 'open' : null }),
})

const pages = useInfiniteQuery({
  queryKey: computed(() => ['items', forUrl.value, sort.value]),
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/api/items', {
        params: { query: { ...forUrl.value, sort: sort.value || undefined, cursor: pageParam, limit: 100 } },
      }),
    ),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
  placeholderData: keepPreviousData,
})
const rows = computed(() => pages.data.value?.pages.flatMap((p) => p.items) ?? [])
const total = computed(() => pages.data.value?.pages[0]?.total ?? 0)
const size = computed(() => pages.data.value?.pages[0]?.bytes ?? 0)
const showing = ref<string | null>(null)
const anyChosen = computed(() => Object.keys(forUrl.value).length > 0)
/** Whoever files what is suggested for one series means that one. */
const meant = computed(() => (list('suggested').length === 1 ? +list('suggested')[0]! : undefined))

const selected = ref(new Set<number>())
const all = ref(false)
const acts = useShown(gathered((p) => p.itemActs))
watch(forUrl, () => ((selected.value = new Set()), (all.value = false)))
const selection = computed(() => (all.value ? query.value : { ids: [...selected.value] }))

const columns: Column[] = [
  { key: 'title', label: 'Title', width: 220, grow: true, sort: 'title' },
  { key: 'state', label: 'State', width: 130 },
  { key: 'series', label: 'Series', width: 84 },
  { key: 'tideline', label: 'Tideline', width: 136 },
  { key: 'due', label: 'Disposable from', width: 122, sort: 'due' },
  { key: 'container', label: 'Container', width: 190 },
  { key: 'modified', label: 'Modified', width: 104, sort: 'modified' },
  { key: 'bytes', label: 'Size', width: 84, align: 'right', sort: 'bytes' },
]
const compact = computed(() => (open.value ? columns.filter((c) => ['title', 'state'].includes(c.key)) : columns))
const year = computed(() => Number(today.value.slice(0, 4)))
const [from, to] = [computed(() => `${year.value - 12}-01-01`), computed(() => `${year.value + 12}-12-31`)]
const asked = computed(() =>
  new URLSearchParams(
    Object.entries(forUrl.value).flatMap(([k, v]) =>
      Array.isArray(v) ? (v as unknown[]).map((x) => [k, String(x)]) : [[k, String(v)]],
    ) as string[][],
  ).toString(),
)
/** Rows need a second line where there is text to show beneath the title. */
const snippets = computed(() => rows.value.some((r) => r.found?.snippet))

useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.key !== 'Escape' || (e.target as HTMLElement).closest('.el-overlay, .el-popper, input')) return
  if (showing.value) showing.value = null
  else if (open.value) open.value = null
})
</script>

<template>
  <Workbench name="content" :subject="!!open" :side="!!open" :list-width="400">
    <template #list>
      <header class="head">
        <h1>Content</h1>
        <span class="quiet small">{{ plural(total, 'item') }}, {{ bytes(size) }}</span
        ><RouterLink v-if="may('readSensitive') && !open" class="small right" to="/content/sensitive"
          >Where sensitive data lies</RouterLink
        >
      </header>
      <div class="search">
        <QueryField v-model="cql" />
        <button
          class="chip"
          :aria-pressed="building"
          :aria-expanded="building"
          title="The same query as rows to fill in"
          @click="building = !building"
        >
          As rows
        </button>
        <SavedViews v-if="!open" place="content" path="/content" open="item" />
      </div>
      <QueryBuilder v-if="building" v-model="cql" />
      <ItemFilters v-model:showing="showing" :open="!!open" :class="{ below: building }" />
      <p v-if="pages.error.value" class="problem pad" role="alert">{{ pages.error.value.message }}</p>
      <DataTable
        v-model:selected="selected"
        v-model:all-selected="all"
        v-model:sort="sort"
        :name="open ? 'items-narrow' : 'items'"
        label="Items"
        :rows="rows"
        :columns="compact"
        :total="total"
        word="item"
        :selectable="acts.length > 0"
        :open="open"
        :tall="snippets"
        :loading="pages.isFetching.value"
        :has-more="pages.hasNextPage.value"
        @more="pages.fetchNextPage()"
        @open="open = $event.id"
      >
        <template #acts
          ><ItemActs
            :selection="selection"
            :items="all ? total : selected.size"
            :suggested="meant"
            @done="((selected = new Set()), (all = false))"
        /></template>
        <template #tools
          ><a :href="`/api/items.csv?${asked}`" download>CSV</a
          ><a :href="`/api/items.xlsx?${asked}`" download>XLSX</a></template
        >
        <template #title="{ row }"
          ><span :title="row.path"><MarkedText :text="row.title" :marks="row.found?.title" /></span
          ><span v-if="row.missing" class="gone"> gone from source</span
          ><span v-if="row.found?.snippet" class="snippet"
            ><MarkedText :text="row.found.snippet" :marks="row.found.snippetMarks" /></span
        ></template>
        <template #state="{ row }"><StateMark :state="row.state" /></template>
        <template #series="{ row }"
          ><span v-if="row.series" :title="row.series.title">{{ row.series.code }}</span
          ><span v-else class="quiet">–</span></template
        >
        <template #tideline="{ row }"
          ><Tideline v-if="row.tideline.keepUntil" :line="row.tideline" :today="today" :from="from" :to="to"
        /></template>
        <template #due="{ row }"
          ><span :title="row.tideline.disposableFrom ?? undefined">{{
            row.tideline.disposableFrom
              ? day(row.tideline.disposableFrom)
              : row.tideline.keepUntil === 'permanent'
                ? 'never'
                : '–'
          }}</span></template
        >
        <template #container="{ row }">{{ row.container }}</template>
        <template #modified="{ row }"
          ><span :title="row.modified">{{ day(row.modified) }}</span></template
        >
        <template #bytes="{ row }">{{ bytes(row.bytes) }}</template>
        <template #empty
          ><h2>Nothing here fits</h2>
          <p>
            {{
              anyChosen
                ? 'No item matches all of these filters.'
                : 'Once a source has been scanned, its files stand here.'
            }}
          </p>
          <el-button v-if="anyChosen" @click="clear">Clear the filters</el-button></template
        >
      </DataTable>
    </template>
    <template #subject><ItemPane v-if="shown" :id="shown" :key="shown" :cql="cql" @close="open = null" /></template>
    <template #side><ItemSide v-if="shown" :id="shown" :key="shown" /></template>
  </Workbench>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 14px 16px 8px;
}
h1 {
  font-size: 18px;
}
.search {
  display: flex;
  gap: 8px;
  align-items: flex-start;
  padding: 0 16px 8px;
}
.search > .chip,
.search > .views {
  margin-top: 4px;
  flex: none;
}
.snippet {
  display: block;
  font-size: 12px;
  line-height: 1.35;
  color: var(--ink-2);
  overflow: hidden;
  text-overflow: ellipsis;
}
.right {
  margin-left: auto;
}
.gone {
  color: var(--copper);
  font-size: 12px;
}
.pad {
  padding: 8px 16px;
}
</style>
