<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'
import { moment } from '@/shared/format'

/** What the server does by itself and cannot do at present, with the cause of each. */
const { data, error } = useQuery({
  queryKey: ['settings', 'troubles'],
  queryFn: () => take(api.GET('/api/troubles')),
  refetchInterval: 10_000,
})
</script>

<template>
  <section class="panel block" aria-label="The server">
    <h2>The server</h2>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <p v-else-if="data?.length === 0" class="settled">
      ✓ It does all that it does by itself: jobs, the daily run, watches, messages, seals.
    </p>
    <ul v-else>
      <li v-for="t in data" :key="t.key">
        <strong class="lacking">▲ {{ t.title }}</strong> since {{ moment(t.since) }}. {{ t.why }}
        <RouterLink v-if="t.link !== $route.path" :to="t.link">See it</RouterLink>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  margin: 0;
  padding-left: 18px;
}
.settled {
  color: var(--sea);
}
</style>
