<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { count } from '@/shared/format'
import { actionWords, outcomeWords } from './words'

const { query } = defineProps<{ query: { query?: string; from?: string; before?: string } }>()
const emit = defineEmits<{ pick: [name: string, value: string] }>()
const facets = useQuery({
  queryKey: computed(() => ['events', 'facets', query]),
  queryFn: () => take(api.GET('/api/events/facets', { params: { query } })),
  placeholderData: keepPreviousData,
})
const label = (name: string, value: string) =>
  name === 'action' ? actionWords(value) : name === 'outcome' ? (outcomeWords[value] ?? value) : value
</script>

<template>
  <div class="facets" role="group" aria-label="Narrow by">
    <el-dropdown
      v-for="f in (facets.data.value ?? []).filter((x) => x.values.length)"
      :key="f.name"
      trigger="click"
      @command="(value: string) => emit('pick', f.name, value)"
    >
      <button class="chip">{{ f.header }} ▾</button>
      <template #dropdown
        ><el-dropdown-menu
          ><el-dropdown-item v-for="v in f.values" :key="v.value" :command="v.value"
            ><span class="value">{{ label(f.name, v.value) }}</span
            ><span class="quiet">{{ count(v.count) }}</span></el-dropdown-item
          ></el-dropdown-menu
        ></template
      >
    </el-dropdown>
  </div>
</template>

<style scoped>
.facets {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  padding: 0 16px 8px;
}
.value {
  flex: 1;
  padding-right: 24px;
}
</style>
