<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { count, day, keepUntil } from './format'

/** The items behind one figure of the consequences. */
const { id, load } = defineProps<{ id: readonly unknown[]; title: string; load: () => Promise<Schemas['ItemPage']> }>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const { data, error } = useQuery({ queryKey: ['group', ...id], queryFn: () => load(), gcTime: 0 })
</script>

<template>
  <el-dialog v-model="shown" :title="title" width="860" append-to-body @closed="emit('close')">
    <p v-if="error" class="problem">{{ error.message }}</p>
    <div class="rows" tabindex="0">
      <table v-if="data">
        <thead>
          <tr>
            <th>Title</th>
            <th>Container</th>
            <th>Created</th>
            <th>Kept now until</th>
            <th v-if="$slots.versions">Versions</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in data.items" :key="i.id">
            <td>
              <RouterLink :to="`/content?item=${i.id}`">{{ i.title }}</RouterLink>
            </td>
            <td>{{ i.container }}</td>
            <td :title="i.created">{{ day(i.created) }}</td>
            <td>{{ keepUntil(i.tideline.keepUntil) }}</td>
            <td v-if="$slots.versions"><slot name="versions" :item="i" /></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="data && data.total > data.items.length" class="small quiet">
      The first {{ count(data.items.length) }} of {{ count(data.total) }}.
    </p>
  </el-dialog>
</template>

<style scoped>
.rows {
  max-height: 55vh;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 6px 12px 6px 0;
  border-bottom: 1px solid var(--line);
  font-size: 13.5px;
}
th {
  font-size: 12px;
  color: var(--ink-2);
  position: sticky;
  top: 0;
  background: var(--sheet);
}
</style>
