<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import ControlForm from './ControlForm.vue'
import ControlPane from './ControlPane.vue'
import { plural } from '@/shared/format'
import { percent, stateWords } from './words'

const { text, number, put } = useUrl()
const open = number('control')
const { data, error, isLoading } = useQuery({ queryKey: ['controls'], queryFn: () => take(api.GET('/api/controls')) })
// Other places know a control by its code.
watch(
  [data, text('code')],
  ([list, code]) => {
    const found = code && list?.find((c) => c.settings.code === code)
    if (found) void put({ code: null, control: String(found.id) })
  },
  { immediate: true },
)
const words = ref('')
const area = text('area')
const state = text('state')
const rows = computed(() =>
  (data.value ?? []).filter(
    (c) =>
      (!area.value || c.settings.area === area.value) &&
      (!state.value ||
        (state.value === 'failing'
          ? c.parts.some((p) => p.kind === 'test' && p.proofs.length && !p.proofs[0]!.passed)
          : c.state === state.value)) &&
      `${c.settings.code} ${c.settings.title} ${c.settings.owner}`.toLowerCase().includes(words.value.toLowerCase()),
  ),
)
const columns: Column[] = [
  { key: 'code', label: 'Code', width: 86 },
  { key: 'title', label: 'Control', width: 300, grow: true },
  { key: 'readiness', label: 'Readiness', width: 90, align: 'right' },
  { key: 'state', label: 'State', width: 130 },
  { key: 'area', label: 'Area', width: 100 },
  { key: 'owner', label: 'Owner', width: 220 },
]
const narrow = columns.filter((c) => ['code', 'title', 'readiness'].includes(c.key))
const areas = computed(() => [...new Set((data.value ?? []).map((c) => c.settings.area))].sort())
const making = ref(false)
function made(code: string) {
  making.value = false
  void put({ code })
}
const shown = computed(() => data.value?.find((c) => c.id === open.value))
const stateOf = (c: Schemas['ControlView']) =>
  c.state === 'partly' && !Number(c.readiness) ? '▲ not met' : stateWords[c.state]
</script>

<template>
  <Workbench name="controls" :subject="!!shown" :list-width="520">
    <template #list>
      <header class="head">
        <h1>Controls</h1>
        <el-input
          v-model="words"
          size="small"
          placeholder="Filter"
          aria-label="Filter the controls"
          clearable
          class="filter"
        />
        <el-select
          :model-value="area"
          size="small"
          clearable
          placeholder="every area"
          aria-label="Area"
          class="area"
          @change="(a?: string) => put({ area: a || null })"
          ><el-option v-for="a in areas" :key="a" :value="a" :label="a"
        /></el-select>
        <el-select
          :model-value="state"
          size="small"
          clearable
          placeholder="every state"
          aria-label="State"
          class="area"
          @change="(s?: string) => put({ state: s || null })"
          ><el-option value="failing" label="with a failing test" /><el-option
            v-for="s in ['ready', 'partly', 'notSetUp', 'notApplicable']"
            :key="s"
            :value="s"
            :label="stateWords[s]"
        /></el-select>
        <el-button v-if="may('manageReadiness')" size="small" type="primary" class="right" @click="making = !making"
          >Make a control</el-button
        >
      </header>
      <p v-if="error" class="problem pad" role="alert">{{ error.message }}</p>
      <ControlForm v-if="making" @kept="made" @left="making = false" />
      <DataTable
        :name="open ? 'controls-narrow' : 'controls'"
        label="Controls"
        :rows="rows"
        :columns="open ? narrow : columns"
        :total="rows.length"
        word="control"
        :loading="isLoading"
        :open="open"
        @open="open = $event.id"
      >
        <template #code="{ row }"
          ><strong>{{ row.settings.code }}</strong></template
        >
        <template #title="{ row }"
          >{{ row.settings.title
          }}<span v-if="row.findings.length" class="lacking small">
            ▲ {{ plural(row.findings.length, 'finding') }}</span
          ></template
        >
        <template #readiness="{ row }"
          ><span :class="{ lacking: Number(row.readiness ?? 1) < 0.5 }">{{ percent(row.readiness) }}</span></template
        >
        <template #state="{ row }">{{ stateOf(row) }}{{ row.awaitsApproval ? ' · asked' : '' }}</template>
        <template #area="{ row }">{{ row.settings.area }}</template>
        <template #owner="{ row }">{{ row.settings.owner || '–' }}</template>
        <template #empty
          ><h2>No control fits</h2>
          <p>
            A control says what the organisation does; its tests, routines and evidence show that it is done.
          </p></template
        >
      </DataTable>
    </template>
    <template #subject><ControlPane v-if="shown" :key="shown.id" :control="shown" @close="open = null" /></template>
  </Workbench>
</template>

<style scoped>
.head {
  display: flex;
  gap: 10px;
  padding: 12px 16px 8px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
.filter {
  width: 150px;
}
.area {
  width: 130px;
}
.right {
  margin-left: auto;
}
.pad {
  padding: 0 16px;
}
</style>
