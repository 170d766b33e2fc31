<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import History from '@/shared/History.vue'
import Reasons from '@/shared/Reasons.vue'
import { useItem } from './useItem'

const { id } = defineProps<{ id: number }>()
const { data } = useItem(() => id)
const history = useQuery({ queryKey: computed(() => ['item', id, 'history']), queryFn: () => take(api.GET('/api/items/{id}/history', { params: { path: { id } } })) })
</script>

<template>
  <h2>Reasons</h2>
  <Reasons v-if="data" :reasons="data.reasons" />
  <hr />
  <History :entries="history.data.value ?? []" />
</template>

<style scoped>
h2 { font-size: 16px; margin-bottom: 12px }
hr { border: 0; border-top: 1px solid var(--line); margin: 18px -16px }
</style>
