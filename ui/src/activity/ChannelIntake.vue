<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, moment, plural } from '@/shared/format'

/** A channel's key, the files that are handed over to it, and the lines that it could not take. */
const { channel } = defineProps<{ channel: Schemas['ChannelView'] }>()
const rejected = useQuery({
  queryKey: ['rejected', channel.id],
  queryFn: () => take(api.GET('/api/channels/{id}/rejected', { params: { path: { id: channel.id } } })),
})
const { act, busy, problem } = useAct(['channels', 'activity'])
const key = ref('')
const range = reactive({ from: '', to: '' })
const answer = ref<Schemas['IntakeAnswer'] | null>(null)
const makeKey = () =>
  act(async () => {
    key.value = (await take(api.POST('/api/channels/{id}/key', { params: { path: { id: channel.id } } }))).key
  })
async function handOver(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  await act(async () => {
    answer.value = (await take(
      api.POST('/api/channels/{id}/files', {
        params: {
          path: { id: channel.id },
          query: { file: file.name, from: range.from || undefined, to: range.to || undefined },
        },
        body: file as never,
        bodySerializer: (b: unknown) => b as Blob,
        headers: { 'Content-Type': 'application/octet-stream' },
      } as never),
    )) as Schemas['IntakeAnswer']
  })
  input.value = ''
}
</script>

<template>
  <div class="intake">
    <section v-if="channel.feed === 'http'" aria-label="Key">
      <h3>Key</h3>
      <p class="small">
        A program sends lines with <code>POST /api/channels/{{ channel.name }}/events</code> and
        <code>Authorization: Bearer {{ channel.hasKey ? channel.keyPrefix + '…' : 'wc_…' }}</code>
      </p>
      <p v-if="key" class="key" role="status">
        {{ key }} <span class="quiet">This key is shown once; copy it now.</span>
      </p>
      <el-button size="small" :loading="busy" @click="makeKey">{{
        channel.hasKey ? 'Make a new key; the former one stops working' : 'Make a key'
      }}</el-button>
    </section>
    <section v-if="channel.feed !== 'ledger' && channel.feed !== 'syslog'" aria-label="Files">
      <h3>Hand over a file</h3>
      <p class="acts-row">
        <label class="small">from <input v-model="range.from" type="date" /></label>
        <label class="small">to <input v-model="range.to" type="date" /></label>
        <input type="file" aria-label="File with lines of this log" @change="handOver" />
      </p>
      <p v-if="answer" role="status">
        {{ plural(answer.lines, 'line') }} read: {{ count(answer.taken) }} taken, {{ count(answer.duplicates) }} there
        already, {{ count(answer.notAdmitted) }} not admitted, {{ count(answer.tooOld) }} past their time,
        <span :class="{ lacking: answer.rejected }">{{ count(answer.rejected) }} rejected</span>.
      </p>
    </section>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <section aria-label="Rejected lines">
      <h3>Rejected lines</h3>
      <p v-if="rejected.data.value?.length === 0" class="quiet small">None.</p>
      <table v-else class="sheet">
        <thead>
          <tr>
            <th>When</th>
            <th>From</th>
            <th class="num">Line</th>
            <th>Reason</th>
            <th>It begins</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in (rejected.data.value ?? []).slice(0, 50)" :key="i">
            <td>{{ moment(r.at) }}</td>
            <td>{{ r.from }}</td>
            <td class="num">{{ count(r.line) }}</td>
            <td>{{ r.reason }}</td>
            <td class="quiet beginning">{{ r.beginning }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.intake {
  display: grid;
  gap: 14px;
  border-top: 1px solid var(--line);
  padding-top: 12px;
}
h3 {
  font-size: 14px;
  margin: 0 0 4px;
}
p {
  margin: 0 0 6px;
}
.key {
  font-family: ui-monospace, monospace;
  background: var(--sea-wash);
  padding: 6px 10px;
  overflow-wrap: anywhere;
}
.beginning {
  max-width: 320px;
  overflow-wrap: anywhere;
  font-size: 12.5px;
}
</style>
