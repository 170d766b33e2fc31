<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, take } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { count } from '@/shared/format'
import { useUrl } from '@/shared/url'
import { askFor, kindWords } from './words'

/** The directory by kind: people, groups, places, applications. */
const { kind } = defineProps<{ kind: 'people' | 'groups' | 'places' | 'applications' }>()
const router = useRouter()
const words = useUrl().text('words')
const { data, error, isLoading } = useQuery({
  queryKey: computed(() => ['entries', kind]),
  queryFn: () => take(api.GET('/api/access/entries', { params: { query: { kind } } })),
})
const rows = computed(() =>
  (data.value ?? [])
    .filter((e) => `${e.name} ${e.id} ${e.detail} ${e.owner ?? ''}`.toLowerCase().includes(words.value.toLowerCase()))
    .map((e, i) => ({ ...e, key: e.id, id: i + 1 })),
)
const counted = { people: 'Reaches', groups: 'Members', places: 'Reached by', applications: 'Reached by or consents' }
const columns = computed<Column[]>(() => [
  { key: 'name', label: 'Name', width: 260, grow: true },
  { key: 'kind', label: 'Kind', width: 150 },
  { key: 'detail', label: kind === 'people' ? 'Title and unit' : 'What it is', width: 260 },
  { key: 'owner', label: kind === 'people' ? 'Manager or sponsor' : 'Owner', width: 230 },
  { key: 'count', label: counted[kind], width: 110, align: 'right' },
  { key: 'state', label: 'State', width: 110 },
])
const title = computed(() => kind[0]!.toUpperCase() + kind.slice(1))
const open = (row: { key: string; kind: string }) =>
  row.kind === 'consent'
    ? router.push('/access/mend?list=consents')
    : router.push(askFor({ id: row.key, kind: row.kind }))
</script>

<template>
  <section class="page">
    <header>
      <h1>{{ title }}</h1>
      <el-input v-model="words" placeholder="Filter" :aria-label="`Filter the ${kind}`" clearable class="filter" />
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <DataTable
      :name="`access-${kind}`"
      :label="title"
      :rows="rows"
      :columns="columns"
      :total="rows.length"
      word="entry"
      :loading="isLoading"
      @open="open"
    >
      <template #name="{ row }">{{ row.name }}</template>
      <template #kind="{ row }">{{ kindWords[row.kind] ?? row.kind }}</template>
      <template #detail="{ row }"
        ><span :class="{ lacking: row.sensitive }"
          >{{ row.sensitive ? '◆ ' : '' }}{{ row.detail || '–' }}</span
        ></template
      >
      <template #owner="{ row }"
        ><span v-if="row.owner">{{ row.owner }}</span
        ><span v-else-if="kind === 'groups' || kind === 'places'" class="lacking">nobody</span
        ><template v-else>–</template></template
      >
      <template #count="{ row }">{{ count(row.count) }}</template>
      <template #state="{ row }"
        ><span v-if="row.suspended" class="lacking">▲ suspended</span
        ><span v-else-if="row.left" class="quiet">left</span></template
      >
      <template #empty
        ><h2>Nothing is here</h2>
        <p>The directory holds nothing of this kind, or the filter fits nothing.</p></template
      >
    </DataTable>
  </section>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
}
header {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 14px 16px 8px;
}
h1 {
  font-size: 20px;
}
.filter {
  width: 280px;
}
</style>
