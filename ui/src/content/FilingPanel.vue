<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { may } from '@/app/session'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { count, plural } from '@/shared/format'
import type { ItemQuery } from './query'

const props = defineProps<{ selection: ItemQuery; items: number }>()
const emit = defineEmits<{ close: []; filed: [] }>()
const NONE = -1
const target = ref<number | null>(null)
const shown = ref(true)
const { act, busy, problem } = useAct({ refused: () => preview.refetch() })

const series = useQuery({ queryKey: ['series'], queryFn: () => take(api.GET('/api/series')) })
const filing = computed(() => ({ selection: props.selection, seriesId: target.value === NONE ? null : target.value }))
const preview = useQuery({
  queryKey: computed(() => ['filing', filing.value]),
  queryFn: () => take(api.POST('/api/filings/consequences', { body: filing.value })),
  enabled: computed(() => target.value !== null),
  gcTime: 0,
})
const guidance = computed(() => series.data.value?.find((s) => s.id === target.value)?.definition.guidance)
const code = computed(() => (target.value === NONE ? 'no series' : series.data.value?.find((s) => s.id === target.value)?.code))
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const says = computed(() => `File ${plural(preview.data.value?.figures.inReach.items ?? props.items, 'item')} under ${code.value ?? '…'}${due.value ? ` — ${count(due.value)} become due today` : ''}`)

async function file() {
  const done = await act(async () => {
    const { figures } = await take(api.POST('/api/filings', { body: { ...filing.value, fingerprint: preview.data.value!.fingerprint } }))
    ElMessage({ message: `${plural(figures.inReach.items, 'item')} filed under ${code.value}.`, type: 'success' })
  })
  if (done) emit('filed')
}
</script>

<template>
  <el-dialog v-model="shown" :title="`File ${plural(props.items, 'item')}`" width="720" append-to-body @closed="emit('close')">
    <label class="label" for="target">Under the series</label>
    <el-select id="target" v-model="target" filterable placeholder="Code or title" aria-label="Series" class="target">
      <el-option v-for="s in series.data.value ?? []" :key="s.id" :value="s.id" :label="`${s.code} ${s.title}`" />
      <el-option v-if="may('writeSchedule')" :value="NONE" label="Take them off their series" />
    </el-select>
    <p v-if="guidance" class="quiet guidance">{{ guidance }}</p>
    <Consequences v-if="target !== null" :view="preview.data.value" :loading="preview.isFetching.value" :problem="preview.error.value?.message" of="filing" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer>
      <el-button @click="shown = false">Leave it</el-button>
      <el-button :type="due ? 'danger' : 'primary'" :disabled="!preview.data.value || preview.isFetching.value" :loading="busy" @click="file">{{ says }}</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.target { width: 100%; margin: 4px 0 12px }
.guidance { margin: 0 0 12px }
</style>
