<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'

/** A series that was never in force goes as a whole. */
const { series } = defineProps<{ series: Schemas['SeriesDetail']; busy: boolean }>()
const emit = defineEmits<{ dropped: [] }>()
const router = useRouter()
const { act, problem } = useAct(['schedule'])
const dropping = computed(() => {
  const { code, items } = series.row
  const unfiled = items ? ` ${plural(items, 'item')} will be under no series again.` : ''
  return `Drop ${code}? It was never in force.${unfiled}`
})
async function drop() {
  const id = series.row.id
  const done = await act(() =>
    take(api.DELETE('/api/series/{id}', { params: { path: { id } }, ...ifMatch(series.revision) })),
  )
  if (!done) return
  emit('dropped')
  await router.push('/schedule')
}
</script>

<template>
  <el-popconfirm
    :title="dropping"
    confirm-button-text="Drop it"
    cancel-button-text="Keep it"
    width="300"
    @confirm="drop"
  >
    <template #reference><el-button :disabled="busy">Drop the series</el-button></template>
  </el-popconfirm>
  <span v-if="problem" class="problem" role="alert">{{ problem.message }}</span>
</template>
