<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { count, moment } from '@/shared/format'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import AlertPane from './AlertPane.vue'
import RiskSettings from './RiskSettings.vue'
import { severityMarks, severityWords, stateWords } from './watchWords'

/** The alerts, the newest first; what arrives stands there without reading the page anew. */
const { text, number, put } = useUrl()
const open = number('alert')
const state = computed({
  get: () => text('state').value || 'open',
  set: (s) => put({ state: s === 'open' ? null : s }),
})
const watched = computed(() => number('watch').value)
const settings = ref(false)
const query = computed(() => ({
  state: state.value === 'all' || state.value === 'log' ? undefined : state.value,
  all: state.value === 'log' ? true : undefined,
  watch: watched.value ?? undefined,
}))
const alerts = useQuery({
  queryKey: computed(() => ['alerts', query.value]),
  queryFn: () => take(api.GET('/api/alerts', { params: { query: query.value } })),
  placeholderData: keepPreviousData,
  refetchInterval: 3000,
})
const states = [
  ['open', 'Open'],
  ['expected', 'Expected'],
  ['confirmed', 'Confirmed'],
  ['all', 'All'],
  ['log', 'Log'],
] as const
const columns: Column[] = [
  { key: 'at', label: 'When', width: 128 },
  { key: 'risk', label: 'Risk', width: 96 },
  { key: 'watch', label: 'Watch', width: 220, grow: true },
  { key: 'who', label: 'Who', width: 210 },
  { key: 'count', label: 'Times', width: 60, align: 'right' },
  { key: 'inCase', label: 'In case', width: 66, align: 'right' },
  { key: 'state', label: 'State', width: 150 },
  { key: 'owner', label: 'Owner', width: 120 },
]
const widths: Record<string, number> = { at: 122, risk: 92, watch: 150, who: 168 }
const narrow = columns.filter((c) => widths[c.key]).map((c) => ({ ...c, width: widths[c.key]! }))
</script>

<template>
  <Workbench name="alerts" :subject="!!open" :list-width="560">
    <template #list>
      <header class="head">
        <h1>Alerts</h1>
        <el-radio-group v-model="state" size="small" aria-label="Which alerts"
          ><el-radio-button v-for="[s, w] in states" :key="s" :value="s">{{ w }}</el-radio-button></el-radio-group
        >
        <button v-if="watched" class="chip" aria-pressed="true" @click="put({ watch: null })">
          {{ alerts.data.value?.[0]?.watch ?? 'one watch' }} ×
        </button>
        <button class="link right" :aria-expanded="settings" @click="settings = !settings">How they are ranked</button>
      </header>
      <RiskSettings v-if="settings" />
      <p v-if="alerts.error.value" class="problem pad" role="alert">{{ alerts.error.value.message }}</p>
      <DataTable
        :name="open ? 'alerts-narrow' : 'alerts'"
        label="Alerts"
        :rows="alerts.data.value ?? []"
        :columns="open ? narrow : columns"
        :total="alerts.data.value?.length ?? 0"
        word="alert"
        :loading="alerts.isLoading.value"
        :open="open"
        @open="open = $event.id"
      >
        <template #at="{ row }"
          ><span :title="row.at">{{ moment(row.at) }}</span></template
        >
        <template #risk="{ row }"
          ><span :class="row.severity" :title="`${severityWords[row.severity]} severity`"
            >{{ severityMarks[row.severity] }} {{ row.risk }}
            <span class="small">{{ severityWords[row.severity] }}</span></span
          ></template
        >
        <template #watch="{ row }">{{ row.watch }}</template>
        <template #who="{ row }"
          ><span :title="row.who ?? ''">{{
            open ? (row.who ?? row.address ?? '–').split('@')[0] : (row.who ?? row.address ?? '–')
          }}</span></template
        >
        <template #count="{ row }">{{ row.count > 1 ? `${count(row.count)} ×` : '' }}</template>
        <template #inCase="{ row }">{{ row.inCase > 1 ? row.inCase : '' }}</template>
        <template #state="{ row }"
          >{{ stateWords[row.state] }}<span v-if="row.withdrawn" class="quiet"> · withdrawn</span
          ><span v-else-if="row.repeats" class="quiet"> · repeats</span
          ><span v-else-if="row.capped" class="quiet"> · no message</span></template
        >
        <template #owner="{ row }">{{ row.owner ?? '–' }}</template>
        <template #empty
          ><h2>{{ state === 'open' ? 'No alert is open' : 'No alert fits' }}</h2>
          <p>
            An alert stands here as soon as a watch raises it.
            <RouterLink to="/activity/watches">See what is watched.</RouterLink>
          </p></template
        >
      </DataTable>
    </template>
    <template #subject><AlertPane v-if="open" :id="open" :key="open" /></template>
  </Workbench>
</template>

<style scoped>
.head {
  display: flex;
  gap: 12px;
  padding: 12px 16px 8px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.pad {
  padding: 0 16px;
}
.high {
  color: var(--copper);
  font-weight: 600;
}
.low {
  color: var(--ink-3);
}
</style>
