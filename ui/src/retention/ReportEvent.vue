<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import { today } from '@/shared/session'
import { keepTyped } from '@/shared/typed'

/** Reports an event; what it would move is shown before. */
const { type, subject } = defineProps<{
  types: readonly Schemas['TriggerEventTypeView'][]
  /** What the list is narrowed to: a name of a type and a subject, each perhaps empty. */
  type: string
  subject: string
}>()
const emit = defineEmits<{ close: [] }>()
const { act, busy, problem } = useAct(['schedule'], { refused: () => preview.refetch() })
const shown = ref(true)
const form = reactive({ type, subject, date: today.value, note: '' })
const saved = keepTyped('event.new', form)
const whole = computed(() => !!form.type && !!form.subject.trim() && /^\d{4}-\d\d-\d\d$/.test(form.date))
const body = computed(() => ({ ...form, subject: form.subject.trim(), reference: null }))
const preview = useQuery({
  queryKey: computed(() => ['event', body.value]),
  queryFn: () => take(api.POST('/api/trigger-events/consequences', { body: body.value })),
  enabled: whole,
  gcTime: 0,
  retry: false,
})
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const moved = computed(() =>
  preview.data.value ? preview.data.value.figures.inReach.items - preview.data.value.figures.unchanged.items : 0,
)

const second = computed(() => !!preview.data.value?.secondPerson)
const why = ref('')
const says = computed(() =>
  second.value
    ? 'Ask a second person'
    : whole.value && preview.data.value
      ? `Report it — ${due.value ? '' : `${plural(moved.value, 'item changes', 'items change')}, `}${becomeDue(due.value)}`
      : 'Report it',
)

async function report() {
  const done = await act(async () => {
    await take(
      api.POST('/api/trigger-events', {
        body: { ...body.value, fingerprint: preview.data.value!.fingerprint, why: why.value.trim() || null },
      }),
    )
    ElMessage({ message: `Reported. ${plural(moved.value, 'item')} changed.`, type: 'success' })
  })
  if (done) {
    saved()
    shown.value = false
  }
}
</script>

<template>
  <el-dialog v-model="shown" title="Report an event" width="620" append-to-body @closed="emit('close')">
    <form class="fields" @submit.prevent="report">
      <label class="label" for="e-type">What happened</label>
      <el-select id="e-type" v-model="form.type" aria-label="Event type" filterable placeholder="Event type"
        ><el-option v-for="t in types" :key="t.id" :value="t.name" :label="t.title"
      /></el-select>
      <label class="label" for="e-subject">To which subject</label
      ><el-input id="e-subject" v-model="form.subject" placeholder="IMO9901005" />
      <label class="label" for="e-date">On which day</label
      ><input id="e-date" v-model="form.date" type="date" class="box date" />
      <label class="label" for="e-note">Note</label><el-input id="e-note" v-model="form.note" />
      <Consequences
        v-if="whole"
        :view="preview.data.value"
        :loading="preview.isFetching.value"
        :problem="preview.error.value?.message"
        :load="
          (group) => take(api.POST('/api/trigger-events/consequences/{group}', { params: { path: { group } }, body }))
        "
        of="event"
      />
      <template v-if="second"
        ><label class="label" for="e-why">Why</label
        ><el-input id="e-why" v-model="why" type="textarea" :rows="2" maxlength="1000"
      /></template>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button
        :type="due ? 'danger' : 'primary'"
        :disabled="!whole || !preview.data.value || preview.isFetching.value || (second && !why.trim())"
        :loading="busy"
        @click="report"
        >{{ says }}</el-button
      ></template
    >
  </el-dialog>
</template>

<style scoped>
.date {
  height: 32px;
  width: 170px;
}
</style>
