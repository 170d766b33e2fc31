<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { keepTyped } from '@/shared/typed'
import { kinds } from './source-kinds'

const emit = defineEmits<{ close: [] }>()
const open = ref(true)
const form = reactive({ name: '', root: '', kind: 'share' as Schemas['SourceKind'] })
const saved = keepTyped('source.new', form)
const { act, busy, problem } = useAct(['sources'])

async function add() {
  if (await act(() => take(api.POST('/api/sources', { body: { ...form } })))) {
    saved()
    open.value = false
  }
}
</script>

<template>
  <el-dialog v-model="open" title="Connect a source" width="460" append-to-body @closed="emit('close')">
    <form class="form" @submit.prevent="add">
      <label class="label" for="kind">Kind</label
      ><select id="kind" v-model="form.kind" class="box">
        <option v-for="(k, key) in kinds" :key="key" :value="key">{{ k.name }}</option>
      </select>
      <label class="label" for="name">Name</label><el-input id="name" v-model="form.name" placeholder="Office share" />
      <label class="label" for="root">Directory on this server</label
      ><el-input id="root" v-model="form.root" placeholder="/srv/share" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p class="small quiet">{{ kinds[form.kind].hint }} It is scanned at once.</p>
    </form>
    <template #footer
      ><el-button @click="open = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="add">Connect and scan</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 6px;
}
.box {
  height: 28px;
  padding: 0 6px;
}
</style>
