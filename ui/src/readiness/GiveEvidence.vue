<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, shallowRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, take, type Schemas } from '@/shared/api/client'
import { may, today } from '@/shared/session'

/** A file as evidence: with its own date, the period that it covers, and other controls that it is evidence of too. */
const { part } = defineProps<{ part: Schemas['PartView'] }>()
const emit = defineEmits<{ close: [] }>()
const file = shallowRef<File | null>(null)
const form = reactive({ day: today.value, coversFrom: '', coversThrough: '', also: [] as number[] })
const controls = useQuery({
  queryKey: ['controls'],
  queryFn: () => take(api.GET('/api/controls')),
  enabled: computed(() => may('manageReadiness')),
})
const others = computed(() =>
  (controls.data.value ?? []).flatMap((c) =>
    c.parts
      .filter((p) => p.kind === 'evidence' && p.id !== part.id)
      .map((p) => ({ id: p.id, title: `${c.settings.code} ${p.title}` })),
  ),
)
const { act, busy, problem } = useAct(['readiness'])
async function give() {
  if (!file.value) return
  const query = {
    file: file.value.name,
    also: form.also,
    day: form.day || undefined,
    coversFrom: form.coversFrom || undefined,
    coversThrough: form.coversThrough || undefined,
  }
  const body = fileBody(file.value)
  const done = await act(() =>
    take(api.POST('/api/control-parts/{id}/evidence', { params: { path: { id: part.id }, query }, ...body } as never)),
  )
  if (done) emit('close')
}
</script>

<template>
  <form class="panel block grid" novalidate aria-label="Add evidence" @submit.prevent="give">
    <label class="label" :for="`g-file-${part.id}`">File</label
    ><input
      :id="`g-file-${part.id}`"
      type="file"
      @change="file = ($event.target as HTMLInputElement).files?.[0] ?? null"
    />
    <label class="label" :for="`g-day-${part.id}`">Date of the evidence</label
    ><input :id="`g-day-${part.id}`" v-model="form.day" type="date" :max="today" />
    <span class="label">Period that it covers</span
    ><span
      ><input v-model="form.coversFrom" type="date" aria-label="First day" /> to
      <input v-model="form.coversThrough" type="date" aria-label="Last day"
    /></span>
    <template v-if="others.length">
      <span class="label">Evidence of these too</span
      ><el-select v-model="form.also" multiple filterable size="small" aria-label="Evidence of these too"
        ><el-option v-for="o in others" :key="o.id" :value="o.id" :label="o.title"
      /></el-select>
    </template>
    <span /><span
      ><el-button type="primary" size="small" native-type="submit" :loading="busy" :disabled="!file"
        >Add the file</el-button
      >
      <button type="button" class="link" @click="emit('close')">Cancel</button></span
    >
    <p v-if="part.needsReview" class="small quiet wide">It counts once another person has approved it.</p>
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 170px minmax(0, 380px);
  gap: 8px 14px;
  align-items: center;
}
.wide {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
