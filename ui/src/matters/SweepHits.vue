<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { bytes, count, day, plural } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'
import StateMark from '@/shared/StateMark.vue'

/** The items behind a figure of a sweep, with the words marked that found them. */
const { matter, run, title, query } = defineProps<{
  matter: number
  run: number
  title: string
  query: Record<string, number | string>
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
      </li>
    </ul>
    <p v-if="hasNextPage">
      <button class="link" :disabled="isFetching" @click="fetchNextPage()">
        {{ count((all?.total ?? 0) - rows.length) }} more
      </button>
    </p>
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
