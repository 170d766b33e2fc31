<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'
import { may } from '@/shared/session'

/** What a batch came to, with its certificate and supplements; and how to go on where something is left. */
const { batch, busy } = defineProps<{ batch: Schemas['BatchView']; busy: boolean }>()
const emit = defineEmits<{ retry: [] }>()
const result = computed(() => {
  const b = batch
  const parts: [number, string, boolean][] = [
    [b.destroyed, 'destroyed', true],
    [b.transferred, 'handed over', false],
    [b.refiled, 're-filed', false],
    [b.extended, 'extended', true],
    [b.droppedOut, 'dropped out', true],
    [b.failed, 'failed', true],
  ]
  return `${parts
    .filter(([n, , always]) => n || always)
    .map(([n, w]) => `${count(n)} ${w}`)
    .join(', ')}.`
})
</script>

<template>
  <p v-if="batch.state === 'done'" class="result">
    {{ result }}
    <RouterLink v-if="batch.certificateId" :to="`/schedule/certificates?certificate=${batch.certificateId}`"
      >Certificate {{ batch.certificateNumber }}</RouterLink
    ><template v-for="s in batch.supplements" :key="s.id"
      >, <RouterLink :to="`/schedule/certificates?certificate=${s.id}`">supplement {{ s.number }}</RouterLink></template
    >
    <el-button v-if="batch.failed && may('signDisposition')" size="small" :loading="busy" @click="emit('retry')"
      >Try the failed again</el-button
    >
  </p>
  <p v-else-if="batch.stuck" class="result copper">
    The job that carried it out failed; what is left waits.
    <el-button v-if="may('signDisposition')" size="small" :loading="busy" @click="emit('retry')"
      >Go on with it</el-button
    >
  </p>
  <p v-else-if="batch.state === 'executing'" class="result" role="status">
    Being carried out; the tray at the top shows how far it is.
  </p>
</template>

<style scoped>
.result {
  margin: 0;
}
</style>
