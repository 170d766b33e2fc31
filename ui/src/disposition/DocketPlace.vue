<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import ItemSide from '@/content/ItemSide.vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { moment, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import BatchPane from './BatchPane.vue'
import DocketBatch from './DocketBatch.vue'
import DueGroup from './DueGroup.vue'
import { entriesOf, sectionsOf, type Entry } from './due'
import DueEntry from './DueEntry.vue'
import { itemQuery } from '@/content/useItem'
import { useLoaded } from '@/shared/loaded'

type Batch = Schemas['BatchView']
const { number, text, put } = useUrl()
const batch = number('batch')
const due = number('due')
const line = number('line')
const shownLine = useLoaded(line, itemQuery)
const { data, error } = useQuery({ queryKey: ['docket'], queryFn: () => take(api.GET('/api/docket')) })

const parts = computed<[string, Batch[]][]>(() => {
  const all = data.value?.batches ?? []
  const parts: [string, Batch[]][] = [
    ['Waits for your signature', all.filter((b) => (b.state === 'open' || b.state === 'signing') && !b.mayNotSign)],
    ['Waits for somebody else', all.filter((b) => (b.state === 'open' || b.state === 'signing') && b.mayNotSign)],
    ['Being destroyed', all.filter((b) => b.state === 'executing')],
    ['Done', all.filter((b) => b.state === 'done' || b.state === 'withdrawn')],
  ]
  return parts.filter(([, list]) => list.length)
})
const blanket = number('blanket')
const month = text('month')
const by = text('by')
const isOpen = (e: Entry) =>
  !batch.value &&
  (e.group.blanketId
    ? e.group.blanketId === blanket.value
    : e.group.series.id === due.value && (e.month?.month ?? '') === month.value)
const entries = computed(() => entriesOf(data.value?.due ?? []))
const entry = computed(() => entries.value.find(isOpen) ?? null)
const group = computed(() => (entry.value ? { ...entry.value.group, ...(entry.value.month ?? {}) } : null))
const show = (e: Entry) =>
  put(
    {
      due: e.group.blanketId ? null : String(e.group.series.id),
      blanket: e.group.blanketId ? String(e.group.blanketId) : null,
      month: e.month?.month ?? null,
      batch: null,
      line: null,
    },
    true,
  )
const groupings = { '': 'series', month: 'month', unit: 'unit' } as const
const unfolded = ref(new Set<number>())
function fold(id: number) {
  const now = new Set(unfolded.value)
  if (!now.delete(id)) now.add(id)
  unfolded.value = now
}
/** What is due, under headings; months stand beneath their series once it is unfolded. */
const sections = computed(() => sectionsOf(data.value?.due ?? [], by.value, unfolded.value))
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.key !== 'Escape' || (e.target as HTMLElement).closest('.el-overlay, .el-popper, input, textarea')) return
  if (line.value) line.value = null
  else void put({ batch: null, due: null, blanket: null })
})
</script>

<template>
  <Workbench name="docket" :subject="!!batch || !!group" :side="!!batch && !!line" :list-width="350">
    <template #list>
      <header class="head">
        <h1>Docket</h1>
        <span class="quiet small">what is due and waits for sign-off</span
        ><RouterLink to="/schedule/certificates" class="small">Certificates</RouterLink>
      </header>
      <p v-if="error" class="problem pad" role="alert">{{ error.message }}</p>
      <div class="scroll docket-entries">
        <template v-for="[title, batches] in parts.filter(([t]) => t !== 'Done')" :key="title">
          <h2>{{ title }} · {{ batches.length }}</h2>
          <DocketBatch
            v-for="b in batches"
            :key="b.id"
            :batch="b"
            :open="b.id === batch"
            @open="put({ batch: String(b.id), due: null, line: null }, !batch)"
          />
        </template>
        <h2 class="due">
          Due, in no batch yet · {{ data?.due.length ?? 0
          }}<label class="by"
            >by
            <select v-model="by" aria-label="Group what is due by">
              <option v-for="(w, k) in groupings" :key="k" :value="k">{{ w }}</option>
            </select></label
          >
        </h2>
        <p v-if="data && data.due.length === 0" class="quiet pad small">Nothing is due beyond what lies in batches.</p>
        <template v-for="[title, list] in sections" :key="title">
          <h3 v-if="title">
            {{ title }} ·
            {{
              plural(
                list.reduce((n, e) => n + (e.month ?? e.group).items, 0),
                'item',
              )
            }}
          </h3>
          <DueEntry
            v-for="e in list"
            :key="`${e.group.series.id}-${e.group.blanketId}-${e.month?.month}`"
            :entry="e"
            :within="!!e.month && !by"
            :open="isOpen(e)"
            :folds="!e.month && !by && e.group.months.length > 1"
            :unfolded="unfolded.has(e.group.series.id)"
            @open="show(e)"
            @fold="fold(e.group.series.id)"
          />
        </template>
        <template v-for="[title, batches] in parts.filter(([t]) => t === 'Done')" :key="title">
          <h2>{{ title }} · {{ batches.length }}</h2>
          <DocketBatch
            v-for="b in batches"
            :key="b.id"
            :batch="b"
            :open="b.id === batch"
            @open="put({ batch: String(b.id), due: null, line: null }, !batch)"
          />
        </template>
      </div>
    </template>
    <template #subject>
      <BatchPane v-if="batch" :id="batch" :key="batch" />
      <DueGroup
        v-else-if="group"
        :key="`${group.series.id} ${group.blanketId} ${month}`"
        :group="group"
        :month="entry?.month?.month ?? null"
        @made="put({ batch: String($event), due: null, blanket: null, month: null, line: null }, true)"
      />
      <p v-else class="quiet">Nothing is due there any more. Last look: {{ moment(new Date().toISOString()) }}.</p>
    </template>
    <template #side><ItemSide v-if="batch && shownLine" :id="shownLine" :key="shownLine" /></template>
  </Workbench>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 14px 16px 10px;
  border-bottom: 1px solid var(--line);
}
.head a {
  margin-left: auto;
}
h1 {
  font-size: 18px;
}
.scroll {
  overflow: auto;
  flex: 1;
}
.scroll h2 {
  font: 600 12.5px var(--sans);
  color: var(--ink-2);
  background: var(--sheet-2);
  padding: 6px 16px;
  border-bottom: 1px solid var(--line);
}
.scroll h2.due {
  display: flex;
  align-items: center;
}
.by {
  margin-left: auto;
  font-weight: 400;
}
.by select {
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
}
h3 {
  font: 600 12.5px var(--sans);
  margin: 0;
  padding: 7px 16px 5px;
  border-bottom: 1px solid var(--line);
}
.pad {
  padding: 8px 16px;
  margin: 0;
}
</style>

<!-- A batch is a component of its own and looks as what is due does. -->
<style>
.docket-entries .entry {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto;
  gap: 10px;
  align-items: center;
  width: 100%;
  text-align: left;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  padding: 6px 16px;
  color: var(--ink);
  cursor: pointer;
}
.docket-entries .entry:hover {
  background: var(--sheet-2);
}
.docket-entries .entry.open {
  background: var(--sea-wash);
  box-shadow: inset 3px 0 0 var(--sea);
}
.docket-entries .what {
  display: grid;
  line-height: 1.35;
}
.docket-entries .what strong {
  font-weight: 600;
  font-size: 13.5px;
}
.docket-entries .what > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.docket-entries small {
  font-size: 12px;
}
.docket-entries .num {
  font-weight: 600;
}
</style>
