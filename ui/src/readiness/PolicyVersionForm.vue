<script setup lang="ts">
import { computed, reactive, shallowRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, take, type Schemas } from '@/shared/api/client'
import { today } from '@/shared/session'
import { keepTyped } from '@/shared/typed'

/** The next text of a policy, with what is different and when it begins; another person approves it. */
const { id, versions } = defineProps<{ id: number; versions: readonly Schemas['PolicyVersionView'][] }>()
const emit = defineEmits<{ kept: []; left: [] }>()
const last = computed(() => versions[0])
const form = reactive({ text: last.value?.text ?? '', change: '', inForceFrom: today.value, asksAnew: true })
const saved = keepTyped(`policy.${id}`, form)
const file = shallowRef<File | null>(null)
const choose = (e: Event) => (file.value = (e.target as HTMLInputElement).files?.[0] ?? null)
const { act, busy, problem } = useAct(['readiness'])
/** The text is kept already, and its file was refused: only the file is sent again. */
let number = 0
async function save() {
  const done = await act(async () => {
    if (!number) {
      const next = (last.value?.number ?? 0) + 1
      await take(api.POST('/api/policies/{id}/versions', { params: { path: { id } }, body: { ...form } }))
      number = next
    }
    if (file.value)
      await take(
        api.PUT('/api/policies/{id}/versions/{number}/file', {
          params: { path: { id, number }, query: { file: file.value.name } },
          ...fileBody(file.value),
        } as never),
      )
  })
  if (done) {
    saved()
    emit('kept')
  }
}
</script>

<template>
  <form class="panel block form" @submit.prevent="save">
    <label class="label" for="pv-text">Text of version {{ (last?.number ?? 0) + 1 }}</label>
    <el-input id="pv-text" v-model="form.text" type="textarea" :rows="9" />
    <template v-if="last"
      ><label class="label" for="pv-change">What is different</label
      ><el-input id="pv-change" v-model="form.change" size="small"
    /></template>
    <span class="row"
      ><label class="small">in force from <input v-model="form.inForceFrom" type="date" /></label>
      <label class="small">a file beside the text <input type="file" @change="choose" /></label>
      <el-checkbox v-if="last" v-model="form.asksAnew"
        >those who know an earlier version acknowledge it anew</el-checkbox
      >
    </span>
    <p class="small quiet">It binds nobody until another person who manages readiness approves it.</p>
    <span
      ><el-button type="primary" size="small" native-type="submit" :loading="busy">Ask for approval</el-button>
      <button type="button" class="link" @click="emit('left')">Leave it</button></span
    >
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  gap: 16px;
  flex-wrap: wrap;
  align-items: center;
}
</style>
