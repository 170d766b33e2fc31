<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'

/** Makes a gauge, or changes the name and thresholds of one. */
const { gauge } = defineProps<{ gauge?: Schemas['GaugeView'] }>()
const emit = defineEmits<{ close: [] }>()
const form = reactive(gauge ? { ...gauge.settings } : { name: '', measure: '', target: 100, warning: 95, alarm: 80 })
const measures = useQuery({
  queryKey: ['gauges', 'measures'],
  queryFn: () => take(api.GET('/api/measures')),
  enabled: !gauge,
})
const { act, busy, problem } = useAct(['readiness'])
const pick = (name: string) => {
  form.name = measures.data.value?.find((m) => m.name === name)?.title ?? ''
}
async function save() {
  const done = await act(() =>
    gauge
      ? take(
          api.PUT('/api/gauges/{id}', {
            params: { path: { id: gauge.id } },
            ...ifMatch(gauge.revision),
            body: { ...form },
          }),
        )
      : take(api.POST('/api/gauges', { body: { ...form } })),
  )
  if (done) emit('close')
}
</script>

<template>
  <form class="grid" novalidate @submit.prevent="save">
    <template v-if="!gauge">
      <label class="label" for="g-measure">What it measures</label>
      <el-select id="g-measure" v-model="form.measure" filterable aria-label="What it measures" @change="pick"
        ><el-option
          v-for="m in measures.data.value ?? []"
          :key="m.name"
          :value="m.name"
          :label="m.title"
          :title="m.says"
      /></el-select>
    </template>
    <label class="label" for="g-name">Name</label><el-input id="g-name" v-model="form.name" />
    <span class="label">Percent: target, a look below, an act below</span>
    <span class="row"
      ><el-input-number v-model="form.target" :min="0" :max="100" aria-label="Target" />
      <el-input-number v-model="form.warning" :min="0" :max="100" aria-label="A look below" />
      <el-input-number v-model="form.alarm" :min="0" :max="100" aria-label="An act below"
    /></span>
    <span /><span class="row"
      ><el-button type="primary" native-type="submit" :loading="busy">{{
        gauge ? 'Save' : 'Make the gauge'
      }}</el-button>
      <button type="button" class="link" @click="emit('close')">Leave it</button></span
    >
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 260px minmax(0, 520px);
  gap: 8px 14px;
  align-items: center;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.problem {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
