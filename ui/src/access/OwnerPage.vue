<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'

/** The page of somebody who is asked to answer for a group or place: yes or no, without an account. */
const route = useRoute()
const path = computed(() => ({ params: { path: { token: String(route.params.token) } } }))
const { data, error, refetch } = useQuery({
  queryKey: computed(() => ['ownership', route.params.token]),
  queryFn: () => take(api.GET('/api/ownership/{token}', path.value)),
})
const { act, busy, problem } = useAct([])
async function answer(yes: boolean) {
  await act(() => take(api.POST('/api/ownership/{token}', { ...path.value, body: { take: yes } })))
  await refetch()
}
</script>

<template>
  <main class="page">
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <article v-if="data" class="panel block">
      <h1>{{ data.name }}</h1>
      <p class="quiet">
        {{ data.kind }} · {{ plural(data.people, 'person', 'people') }}
        {{ data.kind === 'group' ? 'in it' : 'can reach it' }}
      </p>
      <template v-if="data.state === 'open' || data.state === 'declined'">
        <p>
          {{ data.toName }}, nobody answers for it any more, and you use it. Whoever answers for it says who may be in
          it, and is asked when access is reviewed.
        </p>
        <p v-if="data.state === 'declined'">You said no. Should you have thought again, it is still free.</p>
        <p class="row">
          <el-button type="primary" :loading="busy" @click="answer(true)">Yes, I answer for it</el-button>
          <el-button v-if="data.state === 'open'" :loading="busy" @click="answer(false)">No</el-button>
        </p>
      </template>
      <p v-else-if="data.state === 'yours'" class="settled">✓ You answer for it. Thank you.</p>
      <p v-else>Somebody else answers for it already. Thank you all the same.</p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </article>
  </main>
</template>

<style scoped>
.page {
  max-width: 520px;
  margin: 0 auto;
  padding: 32px 16px;
}
h1 {
  font-size: 22px;
  margin: 0;
}
.row {
  display: flex;
  gap: 10px;
}
.settled {
  color: var(--sea);
}
</style>
