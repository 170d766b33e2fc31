<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take } from '@/shared/api/client'
import { bytes, moment } from '@/shared/format'
import History from '@/shared/History.vue'
import { useFile } from './useFile'

const { id } = defineProps<{ id: number }>()
const { data } = useFile(id)
const { act, busy, problem, put } = useAct(['files', 'items'])
const history = useQuery({
  queryKey: ['item', id, 'history'],
  queryFn: () => take(api.GET('/api/items/{id}/history', { params: { path: { id } } })),
})
const may = computed(
  () => data.value?.mayWork && data.value.operations.find((o) => o.operation === 'editContent')?.allowed,
)
const restore = (number: number) =>
  act(async () =>
    put(
      ['file', id],
      await take(
        api.POST('/api/workspace/files/{id}/versions/{number}/restoration', {
          params: { path: { id, number } },
          ...ifMatch(data.value!.revision),
        }),
      ),
    ),
  )
</script>

<template>
  <section aria-label="Versions">
    <h3>Versions</h3>
    <p v-if="!data?.versions.length" class="quiet small">Only the one that is there.</p>
    <ul>
      <li v-for="v in data?.versions ?? []" :key="v.number">
        <span
          >{{ v.number }}. {{ moment(v.at) }}<br /><span class="quiet">{{ v.by }}, {{ bytes(v.bytes) }}</span></span
        ><span v-if="v.isNow" class="quiet">now</span
        ><button v-else-if="may" class="link" :disabled="busy" @click="restore(v.number)">Take back</button>
      </li>
    </ul>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </section>
  <hr />
  <History :entries="history.data.value ?? []" />
</template>

<style scoped>
h3 {
  font-size: 15px;
  margin: 0 0 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: start;
}
hr {
  border: 0;
  border-top: 1px solid var(--line);
  margin: 16px -16px;
}
</style>
