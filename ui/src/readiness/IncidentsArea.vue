<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { today } from '@/shared/session'

/** What went wrong, from wherever it is worked on: confirmed alerts, findings, tickets, the register. */
const { data, error } = useQuery({
  queryKey: ['areas', 'incidents'],
  queryFn: () => take(api.GET('/api/areas/incidents')),
})
const from = ref('all')
const kinds = { all: 'All', alert: 'Alerts', finding: 'Findings', ticket: 'Tickets', register: 'Register' }
const rows = computed(() => (data.value ?? []).filter((i) => from.value === 'all' || i.from === from.value))
const isLate = (i: Schemas['IncidentView']) => i.open && !!i.due && i.due < today.value
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <template v-else-if="data">
    <p class="row">
      <span>{{ plural(data.filter((i) => i.open).length, 'incident') }} open, of {{ data.length }}</span>
      <el-radio-group v-model="from" size="small" aria-label="Where they come from"
        ><el-radio-button v-for="(w, k) in kinds" :key="k" :value="k">{{ w }}</el-radio-button></el-radio-group
      >
    </p>
    <p v-if="rows.length === 0" class="quiet">Nothing of this kind is known.</p>
    <div v-else class="panel rows">
      <table class="sheet">
        <thead>
          <tr>
            <th>Incident</th>
            <th>From</th>
            <th>State</th>
            <th>Opened</th>
            <th>Due</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in rows" :key="i.from + i.title + i.link">
            <td>
              <RouterLink :to="i.link"
                ><strong>{{ i.title }}</strong></RouterLink
              >
              <div class="small quiet">{{ i.says }}</div>
            </td>
            <td>{{ i.from }}</td>
            <td>{{ i.open ? i.state || 'open' : `✓ ${i.state || 'closed'}` }}</td>
            <td>{{ i.on ? day(i.on) : '–' }}</td>
            <td :class="{ lacking: isLate(i) }">{{ isLate(i) ? '▲ ' : '' }}{{ i.due ? day(i.due) : '–' }}</td>
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
.row {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
}
</style>
