<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from './api/client'

/** A choice of one unit; beneath one another as they are in the organisation. Without a choice it names the whole. */
defineProps<{ id: string }>()
const unit = defineModel<number | null>({ required: true })
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
</script>

<template>
  <el-select :id="id" v-model="unit" aria-label="Unit" :placeholder="units.data.value?.[0]?.name ?? ''"
    ><el-option
      v-for="u in units.data.value ?? []"
      :key="u.id"
      :value="u.id"
      :label="u.name"
      :style="{ paddingLeft: `${14 + u.depth * 14}px` }"
  /></el-select>
</template>
