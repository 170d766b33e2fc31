<script setup lang="ts">
import { reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

/** What the organisation answers to a finding: response, action, who does it until when, and that it is done. */
const { audit, finding, was } = defineProps<{
  audit: number
  finding: number
  was: { response: string; action: string; owner: string; due?: string | null }
}>()
const emit = defineEmits<{ done: [] }>()
const form = reactive({ response: was.response, action: was.action, owner: was.owner, due: was.due ?? '' })
const { act, busy, problem } = useAct(['readiness'])
async function save(done: boolean) {
  const body = { ...form, due: form.due || null, done }
  const path = { id: audit, finding }
  if (await act(() => take(api.PUT('/api/audits/{id}/findings/{finding}/response', { params: { path }, body }))))
    emit('done')
}
</script>

<template>
  <form class="grid" @submit.prevent="save(false)">
    <el-input v-model="form.response" class="wide" size="small" placeholder="Response" aria-label="Response" />
    <el-input v-model="form.action" class="wide" size="small" placeholder="Action" aria-label="Action" />
    <el-input v-model="form.owner" size="small" placeholder="Owner’s mail address" aria-label="Owner" />
    <input v-model="form.due" class="box" type="date" aria-label="Due" />
    <p class="acts-row wide">
      <el-button size="small" type="primary" native-type="submit" :loading="busy">Save the response</el-button>
      <el-button size="small" :loading="busy" @click="save(true)">Done: ask for verification</el-button>
      <button type="button" class="link" @click="emit('done')">Cancel</button>
    </p>
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 160px;
  gap: 6px;
}
.wide {
  grid-column: 1 / -1;
}
p {
  margin: 0;
}
</style>
