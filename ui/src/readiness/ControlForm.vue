<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { areas } from './words'

/** What a control says, who answers for it, where it applies, and what it weighs. */
const { control } = defineProps<{ control?: Schemas['ControlView'] }>()
const emit = defineEmits<{ kept: [code: string]; left: [] }>()
const form = reactive<Schemas['ControlSettings']>({
  code: '',
  title: '',
  says: '',
  area: 'operations',
  owner: '',
  units: [],
  requirements: [],
  weight: 1,
  effort: 4,
  ...control?.settings,
})
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
const { act, busy, problem } = useAct(['readiness'])
async function save() {
  const body = { ...form }
  const done = await act(() =>
    control
      ? take(
          api.PUT('/api/controls/{id}', {
            params: { path: { id: control.id } },
            ...ifMatch(control.revision),
            body,
          }),
        )
      : take(api.POST('/api/controls', { body })),
  )
  if (done) emit('kept', form.code.trim())
}
</script>

<template>
  <form class="panel block grid" novalidate @submit.prevent="save">
    <template v-if="!control"
      ><label class="label" for="c-code">Code</label
      ><el-input id="c-code" v-model="form.code" size="small" placeholder="REC-07"
    /></template>
    <label class="label" for="c-title">What is done</label><el-input id="c-title" v-model="form.title" size="small" />
    <label class="label" for="c-says">More</label
    ><el-input id="c-says" v-model="form.says" size="small" type="textarea" :rows="2" /> <span class="label">Area</span
    ><el-select v-model="form.area" size="small" aria-label="Area"
      ><el-option v-for="a in areas" :key="a" :value="a" :label="a"
    /></el-select>
    <label class="label" for="c-owner">Owner</label
    ><el-input id="c-owner" v-model="form.owner" size="small" placeholder="mail address" />
    <span class="label">Applies in</span
    ><el-select v-model="form.units" size="small" multiple filterable aria-label="Units" placeholder="every unit"
      ><el-option v-for="u in units.data.value ?? []" :key="u.id" :value="u.id" :label="u.name"
    /></el-select>
    <span class="label">Weight, hours to mend</span
    ><span class="row"
      ><el-input-number v-model="form.weight as number" size="small" :min="0" :step="0.5" aria-label="Weight" />
      <el-input-number v-model="form.effort as number" size="small" :min="0" :step="1" aria-label="Hours to mend"
    /></span>
    <span /><span
      ><el-button type="primary" size="small" native-type="submit" :loading="busy">{{
        control ? 'Keep it' : 'Make it'
      }}</el-button>
      <button type="button" class="link" @click="emit('left')">Leave it</button></span
    >
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: center;
}
.row {
  display: flex;
  gap: 8px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
