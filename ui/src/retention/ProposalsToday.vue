<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import TodaySection from '@/shared/TodaySection.vue'
import ProposalLine from './ProposalLine.vue'

const { data } = useQuery({ queryKey: ['proposals'], queryFn: () => take(api.GET('/api/proposals')) })
const lines = computed(() => data.value?.filter((p) => p.state === 'waiting') ?? [])
</script>

<template>
  <TodaySection title="Waits for a second person" label="Waits for a second person" :count="lines.length">
    <ProposalLine v-for="x in lines" :key="x.id" :proposal="x" />
  </TodaySection>
</template>
