<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'
import AssuranceSheet from './AssuranceSheet.vue'

/** Open to everybody, where the organisation published it. */
const { data, error } = useQuery({
  queryKey: ['assurance', 'public'],
  queryFn: () => take(api.GET('/api/assurance')),
  retry: false,
})
</script>

<template>
  <main class="public">
    <p v-if="error" class="quiet">Nothing is published here.</p>
    <AssuranceSheet v-if="data" :page="data" asking />
  </main>
</template>

<style scoped>
.public {
  max-width: 760px;
  margin: 0 auto;
  padding: 28px 18px;
}
</style>
