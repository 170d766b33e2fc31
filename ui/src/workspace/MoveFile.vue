<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { useUrl } from '@/shared/url'

type File = Schemas['WorkspaceFileView']
const { file } = defineProps<{
  file: File
  /** What the schedule says to a move into another library. */
  across: string | null
}>()
const emit = defineEmits<{ moved: [File]; close: [] }>()
const { put: putUrl } = useUrl()
const { act, busy, problem } = useAct(['files', 'items'])
const shown = ref(true)
const target = ref(file.libraryId)
const folder = ref(file.folder)
const libraries = useQuery({ queryKey: ['libraries'], queryFn: () => take(api.GET('/api/workspace/libraries')) })
async function move() {
  const done = await act(async () => {
    const after = await take(
      api.POST('/api/workspace/files/{id}/place', {
        params: { path: { id: file.id } },
        ...ifMatch(file.revision),
        body: { libraryId: target.value, folder: folder.value },
      }),
    )
    emit('moved', after)
    await putUrl({ library: String(after.libraryId), folder: after.folder || null })
  })
  if (done) shown.value = false
}
</script>

<template>
  <el-dialog v-model="shown" title="Move" width="460" append-to-body @closed="emit('close')">
    <form class="fields" @submit.prevent="move">
      <label class="label" for="v-library">To</label
      ><el-select id="v-library" v-model="target" aria-label="Library"
        ><el-option v-for="l in libraries.data.value ?? []" :key="l.id" :value="l.id" :label="`${l.name} · ${l.unit}`"
      /></el-select>
      <label class="label" for="v-folder">Folder in it; empty for the library itself</label
      ><el-input id="v-folder" v-model="folder" />
      <p v-if="across && target !== file.libraryId" class="no">
        {{ across }}
      </p>
      <p class="small quiet">The rules of the new place apply; nothing that keeps it is shortened.</p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="move">Move</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
p {
  margin: 0;
}
.no {
  padding: 6px 10px;
  border-left: 3px solid var(--copper);
  background: var(--copper-wash);
}
</style>
