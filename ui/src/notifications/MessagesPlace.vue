<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, moment } from '@/shared/format'
import MailServer from './MailServer.vue'
import MailSink from './MailSink.vue'
import WebhookList from './WebhookList.vue'

const settings = useQuery({ queryKey: ['mail-settings'], queryFn: () => take(api.GET('/api/mail-settings')) })
const messages = useQuery({
  queryKey: ['messages'],
  queryFn: () => take(api.GET('/api/messages')),
  refetchInterval: 5_000,
})
const sink = useQuery({
  queryKey: ['mail-sink'],
  queryFn: () => take(api.GET('/api/mail-sink')),
  refetchInterval: 5_000,
})
const { act, problem } = useAct(['messages'])
const showing = ref<'sink' | 'sent'>('sent')

const retry = (m: Schemas['MessageView']) =>
  act(() => take(api.POST('/api/messages/{id}/retry', { params: { path: { id: m.id } } })))
const state = (m: Schemas['MessageView']) =>
  m.sentAt
    ? `${m.digest ? 'in the digest' : 'sent'}, ${moment(m.sentAt)}`
    : m.givenUp
      ? `given up after ${m.attempts} tries`
      : m.digest
        ? 'waits for the morning'
        : m.failure
          ? 'will be tried again'
          : 'waits'
</script>

<template>
  <main class="page">
    <header>
      <h1>Messages</h1>
      <span class="quiet">what people and other systems are informed of</span>
    </header>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <section class="panel block" aria-label="Messages">
      <header>
        <h2>Messages</h2>
        <span v-if="settings.data.value?.toSink" class="tabs" role="group" aria-label="Which messages"
          ><button class="chip" :aria-pressed="showing === 'sent'" @click="showing = 'sent'">Outbox</button
          ><button class="chip" :aria-pressed="showing === 'sink'" @click="showing = 'sink'">
            Mail sink · {{ count(sink.data.value?.length ?? 0) }}
          </button></span
        >
      </header>
      <template v-if="showing === 'sent'">
        <p v-if="messages.data.value?.length === 0" class="quiet">
          No message yet. Messages go out when a batch waits for somebody, when somebody is asked, and when something
          was carried out.
        </p>
        <div v-else class="scroll">
          <table class="sheet">
            <thead>
              <tr>
                <th>To</th>
                <th>Message</th>
                <th>When</th>
                <th>State</th>
                <th><span class="sr">Acts</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="m in messages.data.value ?? []" :key="m.id">
                <td>{{ m.to }}</td>
                <td>
                  <RouterLink v-if="m.link" :to="m.link">{{ m.subject }}</RouterLink><template v-else>{{
                    m.subject
                  }}</template>
                </td>
                <td class="when">{{ moment(m.at) }}</td>
                <td :class="{ lacking: m.givenUp || m.failure }" :title="m.failure ?? undefined">{{ state(m) }}</td>
                <td class="num">
                  <button
                    v-if="!m.sentAt"
                    class="link"
                    :aria-label="`Send now: “${m.subject}” to ${m.to}`"
                    @click="retry(m)"
                  >
                    Send now
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
      <MailSink v-else :mails="sink.data.value ?? []" />
    </section>
    <MailServer />
    <WebhookList />
  </main>
</template>

<style scoped>
.page {
  max-width: 1080px;
  margin: 0 auto;
  padding: 18px 20px 40px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 16px;
  height: 100%;
  overflow: auto;
}
.page > header,
.block > header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
h1 {
  font-size: 25px;
}
.tabs {
  display: flex;
  gap: 6px;
  margin-left: auto;
}
.scroll {
  max-height: 340px;
  overflow: auto;
}
.when {
  white-space: nowrap;
}
</style>
