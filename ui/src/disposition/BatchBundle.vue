<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { bytes, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'

/** The bundle of a batch, until the archive has it and after. */
const { bundle } = defineProps<{ bundle: NonNullable<Schemas['BatchView']['bundle']> }>()
const { act, busy, problem } = useAct(['batches'])
const receiving = ref(false)
const receipt = ref('')
async function receive() {
  if (
    await act(() =>
      take(
        api.POST('/api/bundles/{id}/receipt', {
          params: { path: { id: bundle.id } },
          ...ifMatch(bundle.revision),
          body: { receipt: receipt.value },
        }),
      ),
    )
  )
    receiving.value = false
}
</script>

<template>
  <p class="result">
    Bundle for the archive: {{ plural(bundle.items, 'item') }}, {{ bytes(bundle.bytes) }}.
    <template v-if="bundle.receivedAt"
      >The archive has it since {{ moment(bundle.receivedAt) }} as “{{ bundle.receipt }}”, noted by
      {{ bundle.receivedBy }}.</template
    >
    <template v-else
      ><a v-if="may('signDisposition')" :href="`/api/bundles/${bundle.id}.zip`" download
        >Take the bundle (BagIt, ZIP)</a
      >
      {{ ' ' }}
      <el-button v-if="may('signDisposition')" size="small" @click="((receiving = true), (problem = null))"
        >The archive has it …</el-button
      ></template
    >
  </p>
  <el-dialog v-model="receiving" title="The archive has the bundle" width="460" append-to-body>
    <p>The copy here is removed; certificate, stubs and hashes stay.</p>
    <label class="label" for="receipt">What the archive calls it</label
    ><el-input id="receipt" v-model="receipt" maxlength="200" placeholder="Accession 2026/114" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template #footer
      ><el-button @click="receiving = false">Cancel</el-button
      ><el-button type="primary" :disabled="!receipt.trim()" :loading="busy" @click="receive"
        >Note the receipt</el-button
      ></template
    >
  </el-dialog>
</template>

<style scoped>
.result {
  margin: 0;
}
</style>
