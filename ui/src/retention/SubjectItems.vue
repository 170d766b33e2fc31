<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'
import { day, keepUntil, plural } from '@/shared/format'
import StateMark from '@/shared/StateMark.vue'

/** The items that an event about a subject moves. */
const { subject } = defineProps<{ subject: string }>()
const { data } = useQuery({
  queryKey: ['subject', subject],
  queryFn: () => take(api.GET('/api/subjects/{subject}', { params: { path: { subject } } })),
})
</script>

<template>
  <section v-if="data" class="panel block" aria-label="Items of the subject">
    <h2>{{ plural(data.items.total, 'item') }} about {{ subject }}</h2>
    <table v-if="data.items.total" class="sheet">
      <thead>
        <tr>
          <th>Title</th>
          <th>Series</th>
          <th>State</th>
          <th>Clock started</th>
          <th>Kept until</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="i in data.items.items" :key="i.id">
          <td>
            <RouterLink :to="`/content?item=${i.id}`">{{ i.title }}</RouterLink>
          </td>
          <td>{{ i.series?.code ?? '–' }}</td>
          <td><StateMark :state="i.state" /></td>
          <td>{{ day(i.tideline.start) }}</td>
          <td>{{ keepUntil(i.tideline.keepUntil) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="data.items.total > data.items.items.length" class="small quiet">
      The first {{ data.items.items.length }};
      <RouterLink :to="{ path: '/content', query: { subject } }">all of them in Content</RouterLink>.
    </p>
  </section>
</template>
