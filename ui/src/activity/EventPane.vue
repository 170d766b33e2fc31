<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { count, moment } from '@/shared/format'
import { may } from '@/shared/session'
import PinEvent from './PinEvent.vue'
import { actionWords, outcomeWords } from './words'

const { id } = defineProps<{ id: number }>()
const emit = defineEmits<{ ask: [cql: string] }>()
const { data, error } = useQuery({
  queryKey: ['event', id],
  queryFn: () => take(api.GET('/api/events/{id}', { params: { path: { id } } })),
})
const event = computed(() => data.value?.event)
const diagnosis = useQuery({
  queryKey: ['event', id, 'diagnosis'],
  queryFn: () => take(api.GET('/api/events/{id}/diagnosis', { params: { path: { id } } })),
  enabled: computed(() => event.value?.action === 'sign-in' && event.value.outcome !== 'success'),
})
const facts = computed(() => {
  const e = event.value
  if (!e) return []
  const all: [string, string | null | undefined][] = [
    ['outcome', e.outcome ? outcomeWords[e.outcome] + (e.code ? ` (${e.code})` : '') : null],
    ['where', e.container],
    ['given to', e.target],
    ['from', [e.address, e.network && `network ${e.network}`, e.place, e.country].filter(Boolean).join(' · ')],
    ['device', e.device],
    ['application', e.application],
    ['amount', e.amount === null || e.amount === undefined ? null : count(Number(e.amount))],
    ['person then', [e.title, e.unit].filter(Boolean).join(', ')],
    ['channel', e.channel],
    ['arrived', moment(data.value!.received)],
    ['id', e.eventId],
  ]
  return all.filter(([, value]) => value)
})
</script>

<template>
  <article v-if="event && data" class="event">
    <p class="small quiet">
      {{ moment(event.time) }} <span :title="event.time">(UTC {{ event.time }})</span>
    </p>
    <h1>{{ event.actor ?? 'Somebody' }} {{ actionWords(event.action) }} {{ event.object }}</h1>
    <p class="acts-row">
      <RouterLink class="el-button" :to="{ path: '/activity/thread', query: { event: String(id) } }"
        >Follow the thread</RouterLink
      >
      <PinEvent :event-id="id" />
    </p>
    <section v-if="diagnosis.data.value" class="diagnosis" aria-label="What it means">
      <strong>{{ diagnosis.data.value.words }}</strong>
      {{ ' ' }}{{ diagnosis.data.value.next }}
      <ul>
        <li v-for="g in diagnosis.data.value.grounds" :key="g">{{ g }}</li>
      </ul>
    </section>
    <dl class="kv">
      <template v-for="[name, value] in facts" :key="name"
        ><dt>{{ name }}</dt>
        <dd>{{ value }}</dd></template
      >
    </dl>
    <section aria-label="What else there is">
      <h2>What else there is</h2>
      <ul class="around">
        <li v-for="a in data.around" :key="a.query">
          <button class="link" @click="emit('ask', a.query)">{{ count(a.count) }} {{ a.words }}</button>
        </li>
      </ul>
    </section>
    <template v-if="data.details"
      ><h2>Details</h2>
      <pre class="raw" tabindex="0">{{ JSON.stringify(data.details, null, 2) }}</pre>
    </template>
    <template v-if="data.original"
      ><h2>The line as it came</h2>
      <pre class="raw" tabindex="0">{{ data.original }}</pre>
    </template>
    <section aria-label="Proof">
      <h2>Proof</h2>
      <p v-if="data.sealed">
        Sealed in <span class="hash">{{ data.sealed }}</span>,
        <RouterLink v-if="data.sealedBy && may('readLedger')" :to="`/activity/ledger?entry=${data.sealedBy}`"
          >ledger entry {{ count(data.sealedBy) }}</RouterLink
        >. <a :href="`/api/events/${id}/proof`" download>Proof of inclusion</a>
      </p>
      <p v-else class="quiet">Its day is not sealed yet.</p>
      <p class="hash small">{{ data.leaf }}</p>
    </section>
  </article>
  <p v-else-if="error" class="problem" role="alert">{{ error.message }}</p>
</template>

<style scoped>
.event {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}
h1 {
  font-size: 20px;
  overflow-wrap: anywhere;
}
h2 {
  font-size: 15px;
  margin: 0 0 4px;
}
p {
  margin: 0;
}
.el-button {
  text-decoration: none;
}
.diagnosis {
  background: var(--copper-wash);
  border-left: 3px solid var(--copper);
  padding: 8px 12px;
}
.diagnosis ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
.around {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 5px 16px;
}
.hash {
  font-size: 12px;
  overflow-wrap: anywhere;
  color: var(--ink-2);
}
</style>
