<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import { seriesNames } from '@/shared/series'

/** @prop suggested series, chosen to begin with, where something suggests it. */
const props = defineProps<{ selection: Schemas['ItemQuery']; items: number; suggested?: number }>()
const emit = defineEmits<{ close: []; done: [] }>()
const NONE = -1
const target = ref<number | null>(props.suggested ?? null)
const shown = ref(true)
const why = ref('')
const confirmed = ref(false)
const { act, busy, problem } = useAct(['items', 'filing', 'proposals'], { refused: () => preview.refetch() })

const series = useQuery(seriesNames)
const filing = computed(() => ({ selection: props.selection, seriesId: target.value === NONE ? null : target.value }))
const preview = useQuery({
  queryKey: computed(() => ['filing', filing.value]),
  queryFn: () => take(api.POST('/api/filings/consequences', { body: filing.value })),
  enabled: computed(() => target.value !== null),
  gcTime: 0,
})
const chosen = computed(() => series.data.value?.find((s) => s.id === target.value))
const guidance = computed(() => chosen.value?.guidance)
const worm = computed(() => chosen.value?.grade === 'worm')
const secondPerson = computed(() => preview.data.value?.secondPerson ?? null)
const ready = computed(
  () =>
    !!preview.data.value &&
    !preview.isFetching.value &&
    (!worm.value || confirmed.value) &&
    (!secondPerson.value || why.value.trim() !== ''),
)
const code = computed(() => (target.value === NONE ? 'no series' : chosen.value?.code))
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const says = computed(() =>
  secondPerson.value
    ? 'Ask a second person'
    : `File ${plural(preview.data.value?.figures.inReach.items ?? props.items, 'item')} under ${code.value ?? '…'}` +
      (due.value ? ` — ${becomeDue(due.value)}` : ''),
)

async function file() {
  const done = await act(async () => {
    const { figures, proposalId } = await take(
      api.POST('/api/filings', {
        body: {
          ...filing.value,
          fingerprint: preview.data.value!.fingerprint,
          why: why.value.trim() || null,
          confirmed: confirmed.value,
        },
      }),
    )
    ElMessage({
      message: proposalId
        ? 'Asked for. They are filed once another person agrees.'
        : `${plural(figures.inReach.items, 'item')} filed under ${code.value}.`,
      type: 'success',
    })
  })
  if (done) emit('done')
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="`File ${plural(props.items, 'item')}`"
    width="720"
    append-to-body
    @closed="emit('close')"
  >
    <label class="label" for="target">Under the series</label>
    <el-select id="target" v-model="target" filterable placeholder="Code or title" aria-label="Series" class="target">
      <el-option
        v-for="s in series.data.value?.filter((s) => s.state !== 'retired') ?? []"
        :key="s.id"
        :value="s.id"
        :label="`${s.code} ${s.title}`"
      />
      <el-option v-if="may('writeSchedule')" :value="NONE" label="Take them off their series" />
    </el-select>
    <p v-if="guidance" class="quiet guidance">{{ guidance }}</p>
    <Consequences
      v-if="target !== null"
      :view="preview.data.value"
      :loading="preview.isFetching.value"
      :problem="preview.error.value?.message"
      of="filing"
      :load="
        (group) => take(api.POST('/api/filings/consequences/{group}', { params: { path: { group } }, body: filing }))
      "
    />
    <template v-if="secondPerson"
      ><label class="label" for="file-why">Why</label
      ><el-input id="file-why" v-model="why" type="textarea" :rows="2" maxlength="1000"
    /></template>
    <label v-if="worm" class="guarded"
      ><input v-model="confirmed" type="checkbox" /> {{ code }} is WORM. I know that this cannot be undone by
      anyone.</label
    >
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer>
      <el-button @click="shown = false">Leave it</el-button>
      <el-button :type="due ? 'danger' : 'primary'" :disabled="!ready" :loading="busy" @click="file">{{
        says
      }}</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.target {
  width: 100%;
  margin: 4px 0 12px;
}
.guidance {
  margin: 0 0 12px;
}
.guarded {
  color: var(--copper);
  margin: 10px 0 6px;
  display: block;
}
</style>
