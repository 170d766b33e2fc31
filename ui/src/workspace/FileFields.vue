<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'

type File = Schemas['WorkspaceFileView']
/** The fields of a file; a field that is taken away here goes. */
const { file } = defineProps<{ file: File }>()
const emit = defineEmits<{ saved: [File]; close: [] }>()
const { act, busy, problem } = useAct(['files', 'items'])
const shown = ref(true)
const fields = ref(Object.entries(file.fields).map(([name, value]) => ({ name, value })))
async function save() {
  const values: Record<string, string> = Object.fromEntries(
    fields.value.filter((f) => f.name.trim()).map((f) => [f.name.trim(), f.value]),
  )
  for (const key of Object.keys(file.fields)) values[key] ??= ''
  const done = await act(async () =>
    emit(
      'saved',
      await take(
        api.PUT('/api/workspace/files/{id}/fields', {
          params: { path: { id: file.id } },
          ...ifMatch(file.revision),
          body: { fields: values },
        }),
      ),
    ),
  )
  if (done) shown.value = false
}
</script>

<template>
  <el-dialog v-model="shown" title="Fields" width="520" append-to-body @closed="emit('close')">
    <form class="fields" @submit.prevent="save">
      <p class="small quiet">A date such as 2026-03-14 can start a clock; any text can be searched for.</p>
      <p v-for="(f, i) in fields" :key="i" class="pair">
        <el-input v-model="f.name" placeholder="closed" :aria-label="`Name of field ${i + 1}`" /><el-input
          v-model="f.value"
          :aria-label="`Value of field ${i + 1}`"
        /><button type="button" class="link" @click="fields.splice(i, 1)">Remove</button>
      </p>
      <p><button type="button" class="link" @click="fields.push({ name: '', value: '' })">Another field</button></p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="save">Save</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
p {
  margin: 0;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1.4fr auto;
  gap: 8px;
  align-items: center;
}
</style>
