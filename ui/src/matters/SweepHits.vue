<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, day, moment, plural } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'
import StateMark from '@/shared/StateMark.vue'
import VersionDialog from './VersionDialog.vue'

/** The items behind a figure of a sweep, with the words marked that found them. */
const { matter, run, title, query, words } = defineProps<{
  matter: number
  run: number
  title: string
  query: Record<string, number | string>
  /** CQL whose words are marked in a version. */
  words: string
}>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const { data, error, fetchNextPage, hasNextPage, isFetching } = useInfiniteQuery({
  queryKey: ['run', run, query],
  queryFn: ({ pageParam }) =>
    take(
      api.GET('/api/matters/{id}/runs/{run}/items', {
        params: { path: { id: matter, run }, query: { ...query, cursor: pageParam ?? undefined, limit: 50 } },
      }),
    ),
  initialPageParam: null as string | null,
  getNextPageParam: (last) => last.next,
})
const rows = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const all = computed(() => data.value?.pages[0])
const versions = computed(() => data.value?.pages.flatMap((p) => p.versions) ?? [])
const of = (id: number) => versions.value.filter((v) => v.itemId === id)
const opened = ref<{ item: number; title: string; hash: string | null } | null>(null)
const when = (v: Schemas['KeptVersion']) =>
  v.until ? `${moment(v.at)} to ${moment(v.until)}` : `${moment(v.at)}, the last that was kept`
</script>

<template>
  <el-dialog v-model="shown" :title="title" width="900" append-to-body @closed="emit('close')">
    <p v-if="error" class="problem">{{ error.message }}</p>
    <p v-if="all" class="small quiet">{{ plural(all.total, 'item') }}, {{ bytes(all.bytes) }}</p>
    <ul tabindex="0">
      <li v-for="i in rows" :key="i.id">
        <p class="line">
          <RouterLink :to="`/content?item=${i.id}`"
            ><MarkedText :text="i.title" :marks="i.found?.title ?? []" /></RouterLink
          ><StateMark :state="i.state" /><span class="quiet small"
            >{{ i.container }} · {{ day(i.created) }}{{ i.author ? ` · ${i.author}` : '' }}</span
          >
        </p>
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
      :matter="matter"
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
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: baseline;
}
</style>
