<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { day, plural } from '@/shared/format'

/** Changes of the ticket list: who approved what, and what was made without approval. */
const { data, error } = useQuery({ queryKey: ['areas', 'changes'], queryFn: () => take(api.GET('/api/areas/changes')) })
const bare = computed(() => (data.value ?? []).filter((c) => c.unapproved).length)
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <p v-else-if="data?.length === 0" class="quiet">
    No ticket list with changes is connected yet. <RouterLink to="/readiness/connections">Connect one</RouterLink>.
  </p>
  <template v-else-if="data">
    <p>
      {{ plural(data.filter((c) => !c.done).length, 'change') }} under way,
      {{ data.filter((c) => c.done).length }} done<template v-if="bare"
        >; <strong class="lacking">▲ {{ bare }} done without approval before</strong></template
      >.
    </p>
    <div class="panel rows">
      <table class="sheet">
        <thead>
          <tr>
            <th>Change</th>
            <th>State</th>
            <th>Opened</th>
            <th>Approved</th>
            <th>Done</th>
            <th>Who</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in data" :key="c.key">
            <td>
              <strong>{{ c.title }}</strong> <span class="small quiet code">{{ c.key }}</span>
            </td>
            <td>{{ c.state }}</td>
            <td>{{ c.opened ? day(c.opened) : '–' }}</td>
            <td :class="{ lacking: c.unapproved }">
              {{ c.unapproved ? '▲ ' : '' }}{{ c.approved ? day(c.approved) : '–' }}
            </td>
            <td :class="{ lacking: c.late }">
              {{ c.done ? day(c.done) : c.due ? `${c.late ? '▲ ' : ''}due ${day(c.due)}` : '–' }}
            </td>
            <td class="small">{{ c.person || '–' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
</template>

<style scoped>
.rows {
  padding: 4px 16px 10px;
  overflow-x: auto;
}
</style>
