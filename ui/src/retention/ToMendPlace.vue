<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import WhyDialog from '@/shared/WhyDialog.vue'
import SchedulePage from './SchedulePage.vue'

/** Items whose dates or files are not as they should be, each kind with the act that settles it. */
type Kind = Schemas['ToMend']
const kinds: Record<Kind, { title: string; means: string }> = {
  floor: {
    title: 'Kept longer than its dates say',
    means: 'A date moved earlier, an event was revoked or a rule changed. Each stays kept for as long as it was.',
  },
  field: {
    title: 'Without a date to count from',
    means:
      'A field that the rule counts from is missing or absurd. Mend it in the file and scan; until then the item is kept.',
  },
  altered: {
    title: 'Altered at the source',
    means:
      'A declared record was changed, moved or deleted on a source that can only be observed. Its copy in safekeeping is what it was.',
  },
}
const { text } = useUrl()
const chosen = text('kind')
const {
  data,
  error,
  fetchNextPage,
  hasNextPage,
  isFetching: loading,
} = useInfiniteQuery({
  queryKey: computed(() => ['to-mend', chosen.value]),
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/api/schedule/to-mend', {
        params: { query: { kind: chosen.value || undefined, cursor: pageParam } },
      }),
    ),
  initialPageParam: undefined as string | undefined,
  getNextPageParam: (last) => last.next ?? undefined,
})
const first = computed(() => data.value?.pages[0])
const rows = computed(() => data.value?.pages.flatMap((p) => p.rows) ?? [])
const kind = computed<Kind>(() => (chosen.value as Kind) || rows.value[0]?.kind || 'floor')
const picked = ref(new Set<number>())
const settles = computed(() => kind.value !== 'field')
const all = computed({
  get: () => rows.value.length > 0 && rows.value.every((r) => picked.value.has(r.itemId)),
  set: (on) => (picked.value = new Set(on ? rows.value.map((r) => r.itemId) : [])),
})
function pick(id: number, on: boolean) {
  const next = new Set(picked.value)
  if (on) next.add(id)
  else next.delete(id)
  picked.value = next
}
function show(next: Kind) {
  chosen.value = next
  picked.value = new Set()
}
const settling = ref(false)
const { act, busy, problem } = useAct(['items'])
async function settle(why: string) {
  const body = { kind: kind.value, items: [...picked.value], why }
  if (await act(() => take(api.POST('/api/schedule/to-mend/settlements', { body })))) {
    settling.value = false
    picked.value = new Set()
  }
}
</script>

<template>
  <SchedulePage title="To mend" :within="{ to: '/schedule/health', label: 'Health' }" :problem="error?.message">
    <template #acts>
      <el-button v-if="settles" :disabled="!picked.size" @click="settling = true"
        >Settle {{ picked.size ? plural(picked.size, 'item') : '…' }}</el-button
      >
    </template>
    <div v-if="first" class="kinds" role="group" aria-label="What is to be mended">
      <button v-for="(k, name) in kinds" :key="name" class="kind" :aria-pressed="name === kind" @click="show(name)">
        <strong :class="{ lacking: first.counts[name] }">{{ count(first.counts[name] ?? 0) }}</strong>
        <span>{{ k.title }}</span>
      </button>
    </div>
    <p class="quiet means">{{ kinds[kind].means }}</p>
    <p v-if="first && !rows.length" class="settled">✓ Nothing of this kind is to be mended.</p>
    <table v-else-if="rows.length" class="sheet">
      <thead>
        <tr>
          <th v-if="settles" class="box">
            <input v-model="all" type="checkbox" aria-label="All that are shown" />
          </th>
          <th>Item</th>
          <th>What to mend</th>
          <th v-if="settles">Since</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.itemId">
          <td v-if="settles" class="box">
            <input
              type="checkbox"
              :aria-label="`Choose ${r.title}`"
              :checked="picked.has(r.itemId)"
              @change="pick(r.itemId, ($event.target as HTMLInputElement).checked)"
            />
          </td>
          <td class="item">
            <RouterLink :to="{ path: '/content', query: { item: r.itemId } }">{{ r.title }}</RouterLink>
            <span class="small quiet path">{{ r.path }}</span>
          </td>
          <td>{{ r.says }}</td>
          <td v-if="settles" class="since">{{ r.since ? day(r.since) : '' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="hasNextPage"><el-button size="small" :loading="loading" @click="fetchNextPage()">Show more</el-button></p>
    <WhyDialog
      v-if="settling"
      :title="`Settle ${plural(picked.size, 'item')}`"
      says="Settle"
      :busy="busy"
      :problem="problem"
      @go="settle"
      @close="settling = false"
    >
      <p>
        {{
          kind === 'floor'
            ? 'They leave the list and stay kept as long as before; nothing is shortened. Your reason goes to the ledger.'
            : 'They leave the list. What was done, and your reason, stay in the ledger.'
        }}
      </p>
    </WhyDialog>
  </SchedulePage>
</template>

<style scoped>
.kinds {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px;
}
.kind {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 10px 14px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
  text-align: left;
}
.kind[aria-pressed='true'] {
  border-color: var(--sea);
  box-shadow: inset 0 0 0 1px var(--sea);
}
.kind strong {
  font-size: 20px;
  font-variant-numeric: tabular-nums;
}
.means {
  margin: 0;
  max-width: 76ch;
}
.box {
  width: 30px;
}
.item {
  width: 42%;
}
.path {
  display: block;
  overflow-wrap: anywhere;
}
.since {
  white-space: nowrap;
}
</style>
