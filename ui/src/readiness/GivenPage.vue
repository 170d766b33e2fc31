<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, take } from '@/shared/api/client'
import { day } from '@/shared/format'

/** What a link of the assurance page opens: its documents, until its last day. */
const token = computed(() => String(useRoute().params.token))
const { data, error } = useQuery({
  queryKey: computed(() => ['given', token.value]),
  queryFn: () => take(api.GET('/api/assurance/given/{token}', { params: { path: { token: token.value } } })),
  retry: false,
})
</script>

<template>
  <main class="given">
    <p v-if="error" class="quiet">This link opens nothing. It may have ended, or the document was withdrawn.</p>
    <article v-if="data">
      <p class="quiet small">{{ data.organisation }}</p>
      <h1>For {{ data.name }}</h1>
      <ul>
        <li v-for="d in data.documents" :key="d.id">
          <a :href="`/api/assurance/given/${token}/${d.id}`" download>{{ d.title }}</a>
          <div v-if="d.says" class="small quiet">{{ d.says }}</div>
        </li>
      </ul>
      <p class="small quiet">The link opens until {{ day(data.endsOn) }}. Every page bears your name.</p>
    </article>
  </main>
</template>

<style scoped>
.given {
  max-width: 560px;
  margin: 0 auto;
  padding: 32px 18px;
}
h1 {
  font-size: 22px;
}
</style>
