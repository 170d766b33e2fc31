<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import History from '@/shared/History.vue'
import Reasons from '@/shared/Reasons.vue'
import CopiesPanel from './CopiesPanel.vue'
import { useItem } from './useItem'

const { id } = defineProps<{ id: number }>()
const { data } = useItem(() => id)
const alike = useQuery({
  queryKey: computed(() => ['item', id, 'alike']),
  queryFn: () => take(api.GET('/api/items/{id}/alike', { params: { path: { id } } })),
})
const history = useQuery({
  queryKey: computed(() => ['item', id, 'history']),
  queryFn: () => take(api.GET('/api/items/{id}/history', { params: { path: { id } } })),
})
</script>

<template>
  <h2>Reasons</h2>
  <p v-if="data?.item.state === 'held'" class="held">
    <strong>Hold</strong> (before every rule):
    {{
      data.holds.length
        ? data.holds.map((h) => `order ${h.order} of ${h.matter}`).join(' and ') +
          (data.holds.length === 1 ? ' keeps it' : ' keep it')
        : 'it is kept for another reason'
    }}. Nothing disposes of it meanwhile, whatever stands below.
  </p>
  <Reasons v-if="data" :reasons="data.reasons" />
  <template v-if="alike.data.value && (alike.data.value.copies || alike.data.value.similar.length)">
    <hr />
    <section aria-label="Alike">
      <h3>Alike</h3>
      <p v-if="alike.data.value.copies" class="small">
        <RouterLink :to="`/content?hash=${alike.data.value.hash}`"
          >{{ plural(alike.data.value.copies, 'other item has', 'other items have') }} the same content</RouterLink
        >
      </p>
      <ul>
        <li v-for="s in alike.data.value.similar" :key="s.id">
          <RouterLink :to="{ path: '/content', query: { item: s.id } }" :title="s.path">{{ s.title }}</RouterLink><span
            class="quiet num"
            :title="`${Math.round(s.likeness * 100)} % of all runs of three words stand in both`"
            >{{ Math.round(s.likeness * 100) }} %</span
          >
        </li>
      </ul>
    </section>
  </template>
  <hr />
  <CopiesPanel :id="id" />
  <History :entries="history.data.value ?? []" />
</template>

<style scoped>
.held {
  margin: 0 0 12px;
  color: var(--plum);
  font-size: 13.5px;
}
h2 {
  font-size: 16px;
  margin-bottom: 12px;
}
h3 {
  font-size: 15px;
  margin: 0 0 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 2px;
  font-size: 12.5px;
  line-height: 24px;
}
li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
}
li a {
  display: block;
  min-height: 24px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
p {
  margin: 0 0 6px;
}
hr {
  border: 0;
  border-top: 1px solid var(--line);
  margin: 18px -16px;
}
</style>
