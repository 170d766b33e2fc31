<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { may, today } from '@/shared/session'
import ItemSide from '@/content/ItemSide.vue'
import { useAct } from '@/shared/act'
import ClearDue from './ClearDue.vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, day, moment, monthWords, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import { signers } from '@/shared/words'
import BatchPane from './BatchPane.vue'
import { itemQuery } from '@/content/useItem'
import { useLoaded } from '@/shared/loaded'

type Batch = Schemas['BatchView']
const { number, text, put } = useUrl()
const batch = number('batch')
const due = number('due')
const line = number('line')
const shownLine = useLoaded(line, itemQuery)
const { act, busy, problem } = useAct(['batches', 'items'])
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
type Due = Schemas['DueGroup']
const blanket = number('blanket')
const month = text('month')
const by = text('by')
/** A line of what is due: a series or a blanket as a whole, or one month of a series. */
type Entry = { group: Due; month: Schemas['DueMonth'] | null }
const isOpen = (e: Entry) =>
  !batch.value &&
  (e.group.blanketId
    ? e.group.blanketId === blanket.value
    : e.group.series.id === due.value && (e.month?.month ?? '') === month.value)
const entries = computed<Entry[]>(() =>
  (data.value?.due ?? []).flatMap((g) => [{ group: g, month: null }, ...g.months.map((m) => ({ group: g, month: m }))]),
)
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
const sections = computed<[string, Entry[]][]>(() => {
  const all = data.value?.due ?? []
  const whole = all.map((g): Entry => ({ group: g, month: null }))
  if (by.value === 'month')
    return under(
      entries.value.filter((e) => e.month || e.group.blanketId),
      (e) => e.month?.month ?? '',
    ).map(([key, list]) => [key ? monthWords(key) : 'Under blankets', list])
  if (by.value === 'unit') return under(whole, (e) => e.group.unit)
  return all.length
    ? [
        [
          '',
          whole.flatMap((e) => [
            e,
            ...(unfolded.value.has(e.group.series.id)
              ? e.group.months.map((m): Entry => ({ group: e.group, month: m }))
              : []),
          ]),
        ],
      ]
    : []
})
function under(list: Entry[], key: (e: Entry) => string): [string, Entry[]][] {
  const found: Record<string, Entry[]> = {}
  for (const e of list) (found[key(e)] ??= []).push(e)
  return Object.entries(found).sort(([a], [b]) => (a < b ? -1 : 1))
}
const where = (b: Batch) =>
  ({
    open: `stage 1 of ${b.stages.length}`,
    signing: `${b.signOffs.length} of ${b.stages.length} signed`,
    executing: 'at work',
    done: `${count(b.destroyed)} destroyed`,
    withdrawn: 'withdrawn',
  })[b.state]
const grace = (iso: string) => (iso < today.value ? `grace ended ${day(iso)}` : `grace until ${day(iso)}`)

const open = (series: number) =>
  act(async () => {
    const made = await take(api.POST('/api/batches', { body: { seriesId: series, month: month.value || undefined } }))
    await put({ batch: String(made.id), due: null, month: null, line: null }, true)
  })
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
      <div class="scroll">
        <template v-for="[title, batches] in parts.filter(([t]) => t !== 'Done')" :key="title">
          <h2>{{ title }} · {{ batches.length }}</h2>
          <button
            v-for="b in batches"
            :key="b.id"
            class="entry"
            :class="{ open: b.id === batch }"
            :aria-current="b.id === batch"
            @click="put({ batch: String(b.id), due: null, line: null }, !batch)"
          >
            <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
              <path
                d="M6 1 11 6 6 11 1 6Z"
                :fill="b.mayNotSign ? 'none' : 'var(--copper)'"
                stroke="var(--copper)"
                stroke-width="1.500"
              />
            </svg>
            <span class="what"
              ><strong>{{ b.series.title }}</strong
              ><small class="quiet"
                >{{ b.series.code }} · <template v-if="b.month">{{ monthWords(b.month) }} · </template>{{ where(b) }} ·
                <span v-if="b.overdue" class="late">overdue</span
                ><template v-else>{{ grace(b.graceEnds) }}</template></small
              ></span
            ><span class="num">{{ count(b.lines) }}</span>
          </button>
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
          <div
            v-for="e in list"
            :key="`${e.group.series.id}-${e.group.blanketId}-${e.month?.month}`"
            class="due-row"
            :class="{ within: e.month && !by }"
          >
            <button class="entry" :class="{ open: isOpen(e) }" :aria-current="isOpen(e)" @click="show(e)">
              <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
                <path
                  d="M6 1 11 6 6 11 1 6Z"
                  :fill="e.month && !by ? 'none' : 'var(--copper)'"
                  stroke="var(--copper)"
                  stroke-width="1.500"
                />
              </svg>
              <span v-if="e.month && !by" class="what"
                ><span>{{ monthWords(e.month.month) }}</span
                ><small class="quiet">{{ grace(e.month.graceEnds) }}</small></span
              >
              <span v-else class="what"
                ><strong>{{ e.group.series.title }}</strong
                ><small class="quiet"
                  >{{ e.group.series.code }} ·
                  {{ e.group.stages.length ? grace((e.month ?? e.group).graceEnds) : 'no sign-off' }}</small
                ></span
              >
              <span class="num">{{ count((e.month ?? e.group).items) }}</span>
            </button>
            <button
              v-if="!e.month && !by && e.group.months.length > 1"
              class="fold"
              :aria-expanded="unfolded.has(e.group.series.id)"
              :aria-label="`Months of ${e.group.series.title}`"
              :title="plural(e.group.months.length, 'month')"
              @click="fold(e.group.series.id)"
            >
              <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
                <path
                  :d="unfolded.has(e.group.series.id) ? 'M2 8 6 4 10 8' : 'M2 4 6 8 10 4'"
                  fill="none"
                  stroke="currentColor"
                  stroke-width="1.600"
                />
              </svg>
            </button>
          </div>
        </template>
        <template v-for="[title, batches] in parts.filter(([t]) => t === 'Done')" :key="title">
          <h2>{{ title }} · {{ batches.length }}</h2>
          <button
            v-for="b in batches"
            :key="b.id"
            class="entry"
            :class="{ open: b.id === batch }"
            @click="put({ batch: String(b.id), due: null, line: null }, !batch)"
          >
            <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
              <rect x="1" y="4.500" width="10" height="3" fill="var(--sea)" />
            </svg>
            <span class="what"
              ><strong>{{ b.series.title }}</strong
              ><small class="quiet"
                >{{ b.series.code }} · {{ where(b)
                }}<template v-if="b.certificateNumber"> · certificate {{ b.certificateNumber }}</template></small
              ></span
            ><span class="num">{{ count(b.lines) }}</span>
          </button>
        </template>
      </div>
    </template>
    <template #subject>
      <BatchPane v-if="batch" :id="batch" :key="batch" />
      <article v-else-if="group" class="group">
        <p class="small quiet">{{ group.series.code }} · {{ group.unit }}</p>
        <h1>
          {{ plural(group.items, 'item') }} due: {{ group.series.title
          }}<template v-if="entry?.month">, {{ monthWords(entry.month.month) }}</template>
        </h1>
        <dl class="kv">
          <dt>Size</dt>
          <dd>{{ bytes(group.bytes) }}</dd>
          <template v-if="!entry?.month"
            ><dt>Oldest due since</dt>
            <dd :title="group.oldest">{{ day(group.oldest) }}</dd></template
          >
          <dt>Grace</dt>
          <dd>{{ grace(group.graceEnds) }}</dd>
          <dt>Who signs</dt>
          <dd>
            {{
              group.stages.length
                ? `${signers(group.stages)}, one after the other`
                : 'nobody: the rule destroys without sign-off'
            }}
          </dd>
        </dl>
        <p class="quiet">
          {{
            group.stages.length
              ? 'Opening a batch destroys nothing. The items are looked through, marked and signed by each stage; ' +
                'only then are they destroyed.'
              : 'Each item is looked at again before it is destroyed; what changed meanwhile stays. A certificate remains.'
          }}
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
        <p class="acts">
          <template v-if="may('signDisposition')"
            ><el-button v-if="group.stages.length" type="primary" :loading="busy" @click="open(group.series.id)"
              >Open a batch of {{ count(group.items) }}</el-button
            ><ClearDue
              v-else
              :group="group"
              @made="(id) => put({ batch: String(id), due: null, blanket: null, line: null }, true)" /></template
          ><RouterLink
            :to="group.blanketId ? '/content?state=due&unfiled=true' : `/content?series=${group.series.id}&state=due`"
            >See them in Content</RouterLink
          >
        </p>
      </article>
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
.entry {
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
.entry:hover {
  background: var(--sheet-2);
}
.entry.open {
  background: var(--sea-wash);
  box-shadow: inset 3px 0 0 var(--sea);
}
.what {
  display: grid;
  line-height: 1.35;
}
.what strong {
  font-weight: 600;
  font-size: 13.5px;
}
.what > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
small {
  font-size: 12px;
}
.num {
  font-weight: 600;
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
.due-row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  position: relative;
}
.due-row.within .entry {
  padding-left: 34px;
  padding-block: 3px;
}
.fold {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: 34px;
  border: 0;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
}
.fold:hover {
  background: var(--sheet-2);
}
.due-row:has(.fold) .entry {
  padding-right: 42px;
}
.late {
  color: var(--copper);
  font-weight: 600;
}
.pad {
  padding: 8px 16px;
  margin: 0;
}
.group {
  display: grid;
  gap: 12px;
  max-width: 640px;
}
.group h1 {
  font-size: 23px;
}
.group p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 16px;
  align-items: center;
}
</style>
