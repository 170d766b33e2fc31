<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { day } from '@/shared/format'
import { useRouter } from 'vue-router'

/** All evidence and routines, what ends first at the top. */
const router = useRouter()
const { data, error, isLoading } = useQuery({ queryKey: ['evidence'], queryFn: () => take(api.GET('/api/evidence')) })
const words = ref('')
const lacking = ref(false)
const rows = computed(() =>
  (data.value ?? [])
    .filter(
      (e) =>
        (!lacking.value || !e.counts) &&
        `${e.control} ${e.title} ${e.doer}`.toLowerCase().includes(words.value.toLowerCase()),
    )
    .map((e) => ({ ...e, id: e.partId })),
)
const columns: Column[] = [
  { key: 'counts', label: 'Counts', width: 170 },
  { key: 'title', label: 'Evidence or routine', width: 300, grow: true },
  { key: 'control', label: 'Control', width: 100 },
  { key: 'latest', label: 'Latest', width: 260 },
  { key: 'doer', label: 'Responsible', width: 220 },
  { key: 'versions', label: 'Versions', width: 80, align: 'right' },
]
</script>

<template>
  <section class="page">
    <header>
      <h1>Evidence</h1>
      <el-input v-model="words" placeholder="Filter" aria-label="Filter the evidence" clearable class="filter" />
      <el-checkbox v-model="lacking">only what does not count</el-checkbox>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <DataTable
      name="evidence"
      label="Evidence"
      :rows="rows"
      :columns="columns"
      :total="rows.length"
      word="piece"
      :loading="isLoading"
      @open="(row) => router.push(`/readiness/controls?code=${row.control}`)"
    >
      <template #counts="{ row }"
        ><span :class="row.counts ? 'settled' : 'lacking'">{{
          row.counts
            ? row.endsOn
              ? `✓ until ${day(row.endsOn)}`
              : '✓'
            : row.awaitsApproval
              ? '◐ awaits approval'
              : row.latest?.broken
                ? '▲ file missing or changed'
                : row.latest
                  ? '▲ expired'
                  : '▲ missing'
        }}</span></template
      >
      <template #title="{ row }"
        >{{ row.title }} <span class="small quiet">{{ row.kind === 'routine' ? 'routine' : '' }}</span><span
          v-if="row.sameAs.length"
          class="small quiet"
        >
          · the same file as {{ row.sameAs.join(', ') }}</span
        ></template
      >
      <template #control="{ row }">{{ row.control }}</template>
      <template #latest="{ row }"
        ><template v-if="row.latest"
          >{{ day(row.latest.day) }}
          <span class="small quiet">{{ row.latest.fileName || row.latest.says }}</span></template
        ><span v-else-if="row.kept" class="quiet">visible to other roles</span><template v-else>–</template></template
      >
      <template #doer="{ row }">{{ row.doer || '–' }}</template>
      <template #versions="{ row }">{{ row.versions }}</template>
      <template #empty
        ><h2>No evidence or routines</h2>
        <p>Add evidence or a routine to a control. This list shows when each expires.</p></template
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
  width: 260px;
}
.settled {
  color: var(--sea);
}
</style>
