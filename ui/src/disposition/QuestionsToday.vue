<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import TodaySection from '@/shared/TodaySection.vue'
import QuestionLine from './QuestionLine.vue'

const { data } = useQuery({ queryKey: ['questions'], queryFn: () => take(api.GET('/api/questions')) })
const lines = computed(() => data.value ?? [])
</script>

<template>
  <TodaySection title="You are asked" label="You are asked" :count="lines.length">
    <QuestionLine v-for="x in lines" :key="x.id" :question="x" />
  </TodaySection>
</template>
