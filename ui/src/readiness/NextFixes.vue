<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { percent } from './words'

/** What to mend first for the hours there are, and how much better any other choice could be. */
const hours = ref(40)
const asked = refDebounced(hours, 250)
const { data, error } = useQuery({
  queryKey: computed(() => ['readiness', 'fixes', asked.value]),
  queryFn: () => take(api.GET('/api/readiness/fixes', { params: { query: { hours: asked.value ?? 0 } } })),
  placeholderData: keepPreviousData,
})
const gained = computed(() => (data.value?.fixes ?? []).reduce((sum, f) => sum + Number(f.gain), 0))
const used = computed(() => (data.value?.fixes ?? []).reduce((sum, f) => sum + Number(f.hours), 0))
</script>

<template>
  <section class="panel block" aria-label="Next best fix">
    <h2>Next best fix</h2>
    <p class="small">
      By gain per hour, within
      <el-input-number v-model="hours" size="small" :min="1" :max="400" aria-label="Hours" /> hours.
    </p>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <table v-if="data?.fixes.length" class="sheet">
      <thead>
        <tr>
          <th>Control</th>
          <th class="num">Hours</th>
          <th class="num">Gain</th>
          <th class="num">Then</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in data.fixes" :key="f.control">
          <td>
            <RouterLink :to="`/readiness/controls?code=${f.control}`">{{ f.control }}</RouterLink> {{ f.title }}
          </td>
          <td class="num">{{ f.hours }}</td>
          <td class="num gain">+{{ percent(f.gain) }}</td>
          <td class="num">{{ percent(f.after) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="data?.fixes.length === 0" class="quiet">Nothing that fits into these hours would raise it.</p>
    <p v-else-if="data" class="small quiet">
      +{{ percent(gained) }} in {{ plural(used, 'hour') }}; no other choice within these hours gains more than
      {{ percent(data.most) }}.
    </p>
  </section>
</template>

<style scoped>
h2 {
  font-size: 16px;
}
.gain {
  color: var(--sea);
}
</style>
