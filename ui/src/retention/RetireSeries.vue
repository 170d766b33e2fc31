<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'
import { seriesNames } from '@/shared/series'

const { series } = defineProps<{ series: Schemas['SeriesDetail'] }>()
const emit = defineEmits<{ close: [] }>()
const id = series.row.id
const successor = ref<number | null>(null)
const { act, busy, problem } = useAct(['schedule'], { refused: () => preview.refetch() })
const all = useQuery(seriesNames)
const preview = useQuery({
  queryKey: computed(() => ['retirement', id, successor.value]),
  queryFn: () =>
    take(
      api.POST('/api/series/{id}/retirement/consequences', {
        params: { path: { id } },
        body: { successorId: successor.value },
      }),
    ),
  gcTime: 0,
})
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const reach = computed(() => preview.data.value?.figures.inReach.items ?? 0)
const says = computed(() =>
  successor.value === null
    ? `Retire — ${plural(reach.value, 'item')} ${reach.value === 1 ? 'stays' : 'stay'} under it`
    : `Retire and re-file ${plural(reach.value, 'item')}${due.value ? ` — ${becomeDue(due.value)}` : ''}`,
)

async function go(why: string) {
  const done = await act(async () => {
    await take(
      api.POST('/api/series/{id}/retirement', {
        params: { path: { id } },
        ...ifMatch(series.revision),
        body: { successorId: successor.value, fingerprint: preview.data.value!.fingerprint, why },
      }),
    )
    ElMessage({
      message: preview.data.value!.secondPerson
        ? 'Asked for. It is retired once another person agrees.'
        : `${series.row.code} is retired.`,
      type: 'success',
    })
  })
  if (done) emit('close')
}
</script>

<template>
  <WhyDialog
    :title="`Retire ${series.row.code}`"
    :says="says"
    :danger="!!due"
    :ready="!!preview.data.value && !preview.isFetching.value"
    :busy="busy"
    :problem="problem"
    @go="go"
    @close="emit('close')"
  >
    <p>
      Nothing new is filed under it from then on. What is filed stays under its last version, or goes to a successor.
    </p>
    <label class="label" for="successor">Successor</label>
    <el-select
      id="successor"
      v-model="successor"
      filterable
      clearable
      aria-label="Successor"
      placeholder="None: the items stay"
      class="successor"
      :value-on-clear="null"
    >
      <el-option
        v-for="s in all.data.value?.filter((s) => s.id !== id && s.state !== 'retired') ?? []"
        :key="s.id"
        :value="s.id"
        :label="`${s.code} ${s.title}`"
      />
    </el-select>
    <Consequences
      :view="preview.data.value"
      :loading="preview.isFetching.value"
      :problem="preview.error.value?.message"
      :load="
        (group) =>
          take(
            api.POST('/api/series/{id}/retirement/consequences/{group}', {
              params: { path: { id, group } },
              body: { successorId: successor },
            }),
          )
      "
      of="retirement"
    />
  </WhyDialog>
</template>

<style scoped>
.successor {
  width: 100%;
  margin: 4px 0 12px;
}
</style>
