<script setup lang="ts">
import {
  HttpTransportType,
  type HubConnection,
  HubConnectionBuilder,
  HubConnectionState,
  LogLevel,
} from '@microsoft/signalr'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { refresh } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { useFold } from '@/shared/fold'
import { count } from '@/shared/format'

type Job = Schemas['JobView']
const client = useQueryClient()
const open = useFold(useTemplateRef<HTMLElement>('root'))
const live = ref(new Map<number, Job>())
/** The list is read once somebody listens: what ends in between is heard, and nothing is read twice. */
const listens = ref(false)
const { data, refetch } = useQuery({
  queryKey: ['jobs'],
  queryFn: () => take(api.GET('/api/jobs')),
  enabled: listens,
})
const jobs = computed(() => {
  const all = new Map((data.value ?? []).map((j) => [j.id, j]))
  for (const [id, job] of live.value) all.set(id, job)
  return [...all.values()].sort((a, b) => b.id - a.id).slice(0, 12)
})
const running = computed(() => jobs.value.filter((j) => j.state === 'running' || j.state === 'queued'))
const share = (job: Job) => (job.total ? Math.round((100 * job.done) / job.total) : 0)
const firstSeen = new Map<number, { at: number; done: number }>()

/** Rate and time left, measured since this page first heard of the job. */
function pace(job: Job) {
  const first = firstSeen.get(job.id)
  const seconds = first ? (Date.now() - first.at) / 1000 : 0
  if (!first || job.state !== 'running' || seconds < 1 || job.done <= first.done) return ''
  const rate = (job.done - first.done) / seconds
  const left = Math.ceil((job.total - job.done) / rate)
  return `${count(Math.round(rate))} a second, ${left < 90 ? `${left} s` : `${Math.ceil(left / 60)} min`} left`
}

function show(job: Job) {
  if (!firstSeen.has(job.id)) firstSeen.set(job.id, { at: Date.now(), done: job.done })
  live.value = new Map(live.value).set(job.id, job)
  if (!ended(job)) return
  for (const change of job.changes) changed.add(change)
  void refreshSoon()
}
/** What ended within a moment makes each thing stale once, however many jobs changed it. */
const changed = new Set<string>()
const refreshSoon = useDebounceFn(() => {
  const changes = [...changed]
  changed.clear()
  return refresh(client, changes)
}, 100)
const ended = (job?: Job) => job?.state === 'done' || job?.state === 'failed' || job?.state === 'cancelled'
let hub: HubConnection | undefined

/** Milliseconds before a stream that broke off is asked for again. */
const patience = 3_000
let listening = false

/** Listens, and asks for what ended while nobody listened because the page was cut off. */
async function listen() {
  listening = true
  hub?.stream<Job>('Jobs').subscribe({ next: show, error: again, complete: () => {} })
  if (!listens.value) {
    listens.value = true
    return
  }
  // All that is known, not only what the tray shows: an older job is no news.
  const before = new Map([...(data.value ?? []), ...live.value.values()].map((j) => [j.id, j]))
  const { data: now } = await refetch()
  for (const job of now ?? []) if (ended(job) && !ended(before.get(job.id))) show(job)
}
/** The server gave the stream up; after a connection that was cut off, what made it anew listens already. */
function again() {
  listening = false
  setTimeout(() => {
    if (!listening && hub?.state === HubConnectionState.Connected) void listen()
  }, patience)
}
onMounted(async () => {
  hub = new HubConnectionBuilder()
    .withUrl('/api/jobs/stream', { skipNegotiation: true, transport: HttpTransportType.WebSockets })
    .withAutomaticReconnect()
    .configureLogging(LogLevel.None)
    .build()
  hub.onreconnected(() => void listen())
  // Without the push the tray still shows what it read; nothing else hangs on it.
  await hub
    .start()
    .then(listen)
    .catch(() => {
      listens.value = true
    })
})
onBeforeUnmount(() => void hub?.stop())
const stop = (job: Job) =>
  take(api.POST('/api/jobs/{id}/cancellation', { params: { path: { id: job.id } } })).catch(() => {})
const words: Record<Job['state'], string> = {
  queued: 'waits',
  running: 'at work',
  done: 'done',
  failed: 'failed',
  cancelled: 'stopped',
}
</script>

<template>
  <div ref="root" class="tray">
    <button :aria-expanded="open" aria-label="Long work" @click="open = !open">
      <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true">
        <circle cx="8" cy="8" r="6" fill="none" stroke="currentColor" stroke-width="1.5" />
        <path d="M8 4.500V8l2.500 1.500" fill="none" stroke="currentColor" stroke-width="1.500" />
      </svg>
      <span v-if="running.length" role="status">{{ running[0]!.total ? `${share(running[0]!)} %` : '…' }}</span>
    </button>
    <div v-if="open" class="panel list" data-panel>
      <p class="label">Long work; it goes on when you leave</p>
      <p v-if="jobs.length === 0" class="quiet">Nothing so far.</p>
      <div v-for="job in jobs" :key="job.id" class="job">
        <div class="line">
          <strong>{{ job.title }}</strong><span class="small quiet">{{ words[job.state] }}</span>
        </div>
        <progress
          v-if="job.state === 'running'"
          :value="job.total ? job.done : undefined"
          :max="job.total || undefined"
          :aria-label="job.title"
        />
        <p class="small quiet">
          {{ job.message }}
          {{ job.state === 'running' && job.total ? `${count(job.done)} of ${count(job.total)}. ${pace(job)}` : '' }}
        </p>
        <button v-if="job.mayBeStopped" class="link small" @click="stop(job)">Stop it</button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.tray {
  position: relative;
}
.tray > button {
  display: flex;
  align-items: center;
  gap: 6px;
  background: none;
  border: 0;
  color: inherit;
  cursor: pointer;
  height: 32px;
}
.list {
  position: absolute;
  right: 0;
  top: 42px;
  width: 360px;
  padding: 12px 16px;
  color: var(--ink);
  box-shadow: var(--shadow);
  max-height: 70vh;
  overflow: auto;
}
.list p {
  margin: 0;
}
.job {
  padding: 8px 0;
  border-top: 1px solid var(--line);
  margin-top: 6px;
}
.line {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
.line strong {
  font-weight: 600;
}
progress {
  width: 100%;
  height: 6px;
  accent-color: var(--sea);
}
</style>
