<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, day, moment, plural } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'
import StateMark from '@/shared/StateMark.vue'
import CodeChips from './CodeChips.vue'
import CodingBar, { type Narrowing } from './CodingBar.vue'
import VersionDialog from './VersionDialog.vue'

/** The items behind a figure of a sweep, with the words marked that found them, and their coding. */
const { matter, run, title, query, words } = defineProps<{
  matter: Schemas['MatterView']
  run: number
  title: string
  query: Record<string, number | string>
  /** CQL whose words are marked in a version. */
  words: string
}>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const narrowing = shallowRef<Narrowing>({})
const asked = computed(() => ({ ...query, ...narrowing.value }))
const { data, error, fetchNextPage, hasNextPage, isFetching } = useInfiniteQuery({
  queryKey: computed(() => ['run', run, asked.value]),
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/api/matters/{id}/runs/{run}/items', {
        params: { path: { id: matter.id, run }, query: { ...asked.value, cursor: pageParam ?? undefined, limit: 50 } },
      }),
    ),
  placeholderData: keepPreviousData,
  initialPageParam: null as string | null,
  getNextPageParam: (last) => last.next,
})
const rows = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const all = computed(() => data.value?.pages[0])
const versions = computed(() => data.value?.pages.flatMap((p) => p.versions) ?? [])
const of = (id: number) => versions.value.filter((v) => v.itemId === id)
const opened = ref<{ item: number; title: string; hash: string | null } | null>(null)
const codes = computed(() => {
  const byItem = new Map<number, Schemas['CodeView'][]>()
  for (const c of data.value?.pages.flatMap((p) => p.codes) ?? [])
    byItem.set(c.itemId, [...(byItem.get(c.itemId) ?? []), c])
  return byItem
})
const families = computed(
  () => new Map(data.value?.pages.flatMap((p) => p.families).map((f) => [f.itemId, f.attachments])),
)
const codesOf = (id: number) => codes.value.get(id) ?? []
const mayCode = computed(() => matter.part !== 'reader' && matter.state === 'open')
const { act, busy, problem } = useAct(['matters'])
const put = (body: Schemas['CodingAct'], choice: Record<string, number | string>) =>
  act(() =>
    take(
      api.POST('/api/matters/{id}/runs/{run}/coding', {
        params: { path: { id: matter.id, run }, query: choice },
        body,
      }),
    ),
  )
const code = (item: number, document: number, tag: number, on: boolean) =>
  put({ tag, on, items: [item], document, note: '' }, query)
const codeAll = (tag: number, on: boolean, note: string) =>
  put({ tag, on, note, items: null, document: 0 }, asked.value)
const list = ref<HTMLElement | null>(null)
/** Digits put tags on and off; j and k go on and back. */
function key(e: KeyboardEvent, item: number) {
  if (e.target !== e.currentTarget || e.ctrlKey || e.metaKey || e.altKey) return
  const tag = matter.tags[Number(e.key) - 1]
  const step = { j: 1, ArrowDown: 1, k: -1, ArrowUp: -1 }[e.key]
  if (tag && mayCode.value)
    void code(item, 0, tag.id, !codesOf(item).some((c) => c.tagId === tag.id && c.document === 0))
  else if (step) {
    const all = [...list.value!.querySelectorAll<HTMLElement>(':scope > li')]
    all[all.indexOf(e.currentTarget as HTMLElement) + step]?.focus()
  } else return
  e.preventDefault()
}
const when = (v: Schemas['KeptVersion']) =>
  v.until ? `${moment(v.at)} to ${moment(v.until)}` : `${moment(v.at)}, the last that was kept`
</script>

<template>
  <el-dialog v-model="shown" :title="title" width="900" append-to-body @closed="emit('close')">
    <p v-if="error" class="problem">{{ error.message }}</p>
    <p v-if="all" class="small quiet">{{ plural(all.total, 'item') }}, {{ bytes(all.bytes) }}</p>
    <CodingBar
      v-if="matter.tags.length && query['scope'] !== 'alone'"
      :tags="matter.tags"
      :total="all?.total ?? 0"
      :fixed="query['term'] !== undefined"
      :may="mayCode"
      :busy="busy"
      @narrow="narrowing = $event"
      @code="codeAll"
    />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <ul ref="list" aria-label="Items">
      <li v-for="i in rows" :key="i.id" tabindex="0" @keydown="key($event, i.id)">
        <p class="line">
          <RouterLink :to="`/content?item=${i.id}`"
            ><MarkedText :text="i.title" :marks="i.found?.title ?? []" /></RouterLink
          ><StateMark :state="i.state" /><span class="quiet small"
            >{{ i.container }} · {{ day(i.created) }}{{ i.author ? ` · ${i.author}` : '' }}</span
          >
        </p>
        <CodeChips
          v-if="matter.tags.length"
          :tags="matter.tags"
          :codes="codesOf(i.id)"
          :document="0"
          :name="i.title"
          :may="mayCode"
          :busy="busy"
          @code="(tag, on) => code(i.id, 0, tag, on)"
        />
        <p v-if="i.found?.snippet" class="small quiet">
          <MarkedText :text="i.found.snippet" :marks="i.found.snippetMarks" />
        </p>
        <p v-for="v in of(i.id).filter((v) => v.fits)" :key="v.hash" class="small quiet">
          <button class="link" @click="opened = { item: i.id, title: i.title, hash: v.hash }">
            Found in its version of {{ when(v) }}</button
          ><template v-if="v.found?.snippet"
            >: <MarkedText :text="v.found.snippet" :marks="v.found.snippetMarks"
          /></template>
        </p>
        <template v-if="matter.tags.length">
          <p v-for="(a, n) in families.get(i.id)" :key="n" class="small attachment">
            <span class="quiet">attached:</span> {{ a }}
            <CodeChips
              :tags="matter.tags"
              :codes="codesOf(i.id)"
              :document="n + 2"
              :name="a"
              :may="mayCode"
              :busy="busy"
              @code="(tag, on) => code(i.id, n + 2, tag, on)"
            />
          </p>
        </template>
        <p v-if="of(i.id).some((v) => !v.fits)" class="small">
          <button class="link" @click="opened = { item: i.id, title: i.title, hash: null }">
            {{ plural(of(i.id).filter((v) => !v.fits).length, 'other version') }}
          </button>
        </p>
      </li>
    </ul>
    <p v-if="hasNextPage">
      <button class="link" :disabled="isFetching" @click="fetchNextPage()">
        {{ count((all?.total ?? 0) - rows.length) }} more
      </button>
    </p>
    <VersionDialog
      v-if="opened"
      :matter="matter.id"
      :item="opened.item"
      :title="opened.title"
      :begin="opened.hash"
      :words="words"
      @close="opened = null"
    />
  </el-dialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 56vh;
  overflow: auto;
}
li {
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
p {
  margin: 0;
}
.attachment {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  align-items: baseline;
  margin-left: 16px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: baseline;
}
</style>
