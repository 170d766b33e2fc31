<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'
import { moment } from '@/shared/format'
import History from '@/shared/History.vue'
import { ruleWords } from '@/shared/words'

const { id } = defineProps<{ id: number }>()
const path = { params: { path: { id } } }
const versions = useQuery({
  queryKey: ['series', id, 'versions'],
  queryFn: () => take(api.GET('/api/series/{id}/versions', path)),
})
const history = useQuery({
  queryKey: ['series', id, 'history'],
  queryFn: () => take(api.GET('/api/series/{id}/history', path)),
})
</script>

<template>
  <section aria-label="Versions">
    <h2>Versions</h2>
    <p v-if="versions.data.value?.length === 0" class="quiet small">None was in force yet.</p>
    <ol>
      <li v-for="v in versions.data.value ?? []" :key="v.number">
        <strong>{{ v.number }}</strong>
        <div>
          <span
            >{{ ruleWords(v.definition)
            }}<template v-if="v.changed.length">, changed: {{ v.changed.join(', ') }}</template></span
          >
          <span class="small quiet">{{ moment(v.at) }}, {{ v.by }}</span
          ><em class="small">“{{ v.why }}”</em>
        </div>
      </li>
    </ol>
  </section>
  <hr />
  <History :entries="history.data.value ?? []" />
</template>

<style scoped>
h2 {
  font-size: 16px;
  margin-bottom: 10px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
li {
  display: grid;
  grid-template-columns: 22px 1fr;
}
li div {
  display: grid;
}
em {
  color: var(--ink-2);
}
hr {
  border: 0;
  border-top: 1px solid var(--line);
  margin: 18px -16px;
}
</style>
