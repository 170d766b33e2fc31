<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { day, moment } from '@/shared/format'

/** A policy as somebody reads it whom it binds: the text, and one press to acknowledge it, without an account. */
const route = useRoute()
const token = computed(() => String(route.params.token))
const path = computed(() => ({ params: { path: { token: token.value } } }))
const { data, error, refetch } = useQuery({
  queryKey: computed(() => ['policy', token.value]),
  queryFn: () => take(api.GET('/api/policy/{token}', path.value)),
})
let opened = false
watch(
  data,
  (page) => {
    // To have it on screen is to have opened it.
    if (page && !opened) {
      opened = true
      void take(api.POST('/api/policy/{token}/opening', path.value)).catch(() => undefined)
    }
  },
  { immediate: true },
)
const { act, busy, problem } = useAct([])
async function acknowledge() {
  await act(() => take(api.POST('/api/policy/{token}/acknowledgement', path.value)))
  await refetch()
}
</script>

<template>
  <main class="reading">
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <article v-if="data">
      <p class="quiet small">{{ data.organisation }} · for {{ data.name }}</p>
      <h1>{{ data.title }}</h1>
      <p class="quiet">Version {{ data.number }}, in force since {{ day(data.inForceFrom) }}.</p>
      <p v-if="data.change" class="panel block"><strong>Different from before:</strong> {{ data.change }}</p>
      <p class="text">{{ data.text }}</p>
      <p v-if="data.fileName">
        <a :href="`/api/policy/${token}/file`" download>{{ data.fileName }}</a>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <footer>
        <p v-if="data.acknowledgedAt" class="settled">✓ You acknowledged it on {{ moment(data.acknowledgedAt) }}.</p>
        <p v-else-if="data.superseded" class="lacking">
          This version binds nobody any more. A later one comes by a message of its own.
        </p>
        <template v-else
          ><el-button type="primary" size="large" :loading="busy" @click="acknowledge"
            >I have read it and will keep to it</el-button
          >
          <span class="small quiet">by {{ day(data.dueOn) }}</span></template
        >
      </footer>
    </article>
  </main>
</template>

<style scoped>
.reading {
  max-width: 640px;
  margin: 0 auto;
  padding: 32px 18px 48px;
}
h1 {
  font-size: 24px;
  margin: 4px 0;
}
.text {
  white-space: pre-wrap;
  line-height: 1.6;
}
footer {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
  margin-top: 20px;
}
</style>
