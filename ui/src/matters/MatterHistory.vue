<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/shared/api/client'
import History from '@/shared/History.vue'
import { happened } from './words'

const { id } = defineProps<{ id: number }>()
const { data } = useQuery({
  queryKey: ['matter', id, 'history'],
  queryFn: () => take(api.GET('/api/matters/{id}/history', { params: { path: { id } } })),
})
</script>

<template><History :entries="data ?? []" :say="happened" /></template>
