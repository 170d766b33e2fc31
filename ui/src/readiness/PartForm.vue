<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import PeriodEditor from '@/shared/PeriodEditor.vue'
import RolesSelect from './RolesSelect.vue'
import { today } from '@/shared/session'

/** Adds a test, a routine or a piece of evidence to a control, or changes one. */
const {
  control,
  part = null,
  revision = 0,
} = defineProps<{ control: number; part?: Schemas['PartView'] | null; revision?: number }>()
const emit = defineEmits<{ close: [] }>()
const form = reactive({
  kind: part?.kind ?? ('test' as Schemas['PartKind']),
  title: part?.title ?? '',
  weight: part?.weight ?? 1,
  measure: part?.measure ?? '',
  expected: part?.expected ?? 100,
  period: part?.period ?? 'P7D',
  recurrence: part?.recurrence ?? 'FREQ=MONTHLY',
  first: part?.first ?? today.value,
  doer: part?.doer ?? '',
  deputy: part?.deputy ?? '',
  seenBy: [...(part?.seenBy ?? [])] as Schemas['Role'][],
  needsReview: part?.needsReview ?? false,
})
const measures = useQuery({ queryKey: ['gauges', 'measures'], queryFn: () => take(api.GET('/api/measures')) })
const pick = (name: string) => (form.title = measures.data.value?.find((m) => m.name === name)?.title ?? form.title)
/** Other rules of RFC 5545 can be typed. */
const repeats = [
  ['FREQ=WEEKLY', 'every week'],
  ['FREQ=MONTHLY', 'every month'],
  ['FREQ=MONTHLY;INTERVAL=3', 'every 3 months'],
  ['FREQ=MONTHLY;INTERVAL=6', 'every 6 months'],
  ['FREQ=YEARLY', 'every year'],
] as const
const { act, busy, problem } = useAct(['readiness'])
async function save() {
  const body = { ...form, first: form.kind === 'routine' ? form.first : null }
  const done = await act(() =>
    part
      ? take(
          api.PUT('/api/controls/{id}/parts/{part}', {
            params: { path: { id: control, part: part.id } },
            ...ifMatch(revision),
            body,
          }),
        )
      : take(api.POST('/api/controls/{id}/parts', { params: { path: { id: control } }, body })),
  )
  if (done) emit('close')
}
</script>

<template>
  <form class="panel block grid" novalidate @submit.prevent="save">
    <span class="label">Kind</span>
    <el-radio-group v-model="form.kind" :disabled="!!part" size="small" aria-label="Kind"
      ><el-radio-button value="test">Test</el-radio-button><el-radio-button value="routine">Routine</el-radio-button
      ><el-radio-button value="evidence">Evidence</el-radio-button></el-radio-group
    >
    <template v-if="form.kind === 'test'">
      <span class="label">What it looks at</span>
      <el-select
        v-model="form.measure"
        :disabled="!!part"
        filterable
        size="small"
        aria-label="What it looks at"
        @change="pick"
        ><el-option
          v-for="m in measures.data.value ?? []"
          :key="m.name"
          :value="m.name"
          :label="m.title"
          :title="m.says"
      /></el-select>
      <span class="label">Percent that must be right</span
      ><el-input-number v-model="form.expected" size="small" :min="0" :max="100" aria-label="Percent" />
    </template>
    <label class="label" for="p-title">Title</label><el-input id="p-title" v-model="form.title" size="small" />
    <template v-if="form.kind === 'routine'">
      <span class="label">Repeats</span
      ><el-select v-model="form.recurrence" filterable allow-create size="small" aria-label="Repeats"
        ><el-option v-for="[rule, words] in repeats" :key="rule" :value="rule" :label="words"
      /></el-select>
      <label class="label" for="p-first">First due day</label><input id="p-first" v-model="form.first" type="date" />
    </template>
    <PeriodEditor v-if="form.kind !== 'routine'" v-model="form.period" name="part-period" label="Valid for" />
    <template v-if="form.kind !== 'test'">
      <label class="label" for="p-doer">Responsible</label
      ><el-input id="p-doer" v-model="form.doer" size="small" placeholder="mail address" />
      <label class="label" for="p-deputy">Deputy</label
      ><el-input id="p-deputy" v-model="form.deputy" size="small" placeholder="mail address" />
    </template>
    <template v-if="form.kind === 'evidence'">
      <span class="label">Review</span
      ><el-checkbox v-model="form.needsReview" size="small">counts once another person has approved it</el-checkbox>
    </template>
    <span class="label">Who sees its proofs</span><RolesSelect v-model="form.seenBy" /> <span class="label">Weight</span
    ><el-input-number v-model="form.weight" size="small" :min="0" aria-label="Weight" /> <span /><span
      ><el-button type="primary" size="small" native-type="submit" :loading="busy">{{
        part ? 'Save' : 'Add'
      }}</el-button>
      <button type="button" class="link" @click="emit('close')">Cancel</button></span
    >
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 180px minmax(0, 380px);
  gap: 8px 14px;
  align-items: center;
}
.problem {
  grid-column: 1 / -1;
}
</style>
