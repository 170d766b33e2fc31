<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { count } from '@/shared/format'

/** The files in the places of a run of which not every word is known, each with the reason. */
const { matter, run, counted } = defineProps<{
  matter: number
  run: number
  /** When it ran. */
  counted: number
}>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const { data, error } = useQuery({
  queryKey: ['run', run, 'unreadable'],
  queryFn: () => take(api.GET('/api/matters/{id}/runs/{run}/unreadable', { params: { path: { id: matter, run } } })),
})
</script>

<template>
  <el-dialog v-model="shown" title="Files that were not read whole" width="760" append-to-body @closed="emit('close')">
    <p v-if="error" class="problem">{{ error.message }}</p>
    <table v-else class="sheet">
      <thead>
        <tr>
          <th>Source</th>
          <th>Path</th>
          <th>Why</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="u in data ?? []" :key="u.source + u.path">
          <td>{{ u.source }}</td>
          <td class="path">
            <RouterLink v-if="u.itemId" :to="`/content?item=${u.itemId}`">{{ u.path }}</RouterLink><template v-else>{{
              u.path
            }}</template>
          </td>
          <td>{{ u.reason }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="data && counted > data.length" class="small quiet">
      {{ count(data.length) }} are listed now, of {{ count(counted) }} when it ran.
    </p>
  </el-dialog>
</template>

<style scoped>
.path {
  overflow-wrap: anywhere;
}
</style>
