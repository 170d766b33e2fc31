<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { useTypedText } from '@/shared/typed'

const { batch } = defineProps<{ batch: Schemas['BatchView'] }>()
const emit = defineEmits<{ close: [] }>()
const shown = ref(true)
const why = useTypedText(`batch.${batch.id}.withdrawal`)
const { act, busy, problem } = useAct(['batches'])
async function withdraw() {
  const done = await act(() =>
    take(
      api.POST('/api/batches/{id}/withdrawal', {
        params: { path: { id: batch.id } },
        body: { comment: why.value },
      }),
    ),
  )
  if (!done) return
  why.value = ''
  shown.value = false
}
</script>

<template>
  <el-dialog v-model="shown" title="Withdraw the batch" width="440" append-to-body @closed="emit('close')">
    <p>Its items are due again; signatures and marks are gone, the ledger keeps them.</p>
    <label class="label" for="why-withdraw">Why</label><el-input id="why-withdraw" v-model="why" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="withdraw">Withdraw</el-button></template
    >
  </el-dialog>
</template>
