<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref, shallowRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, ifMatch, take, type Schemas } from '@/shared/api/client'
import { bytes, day, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'

/** Documents that outsiders ask for, who waits for a decision, and clients who need not ask. */
const { data, error } = useQuery({
  queryKey: ['assurance', 'room'],
  queryFn: () => take(api.GET('/api/assurance/room')),
})
const { act, busy, problem } = useAct(['readiness'])
const offer = reactive({ title: '', says: '' })
const file = shallowRef<File | null>(null)
const choose = (e: Event) => (file.value = (e.target as HTMLInputElement).files?.[0] ?? null)
async function give() {
  const done = await act(() =>
    take(
      api.POST('/api/assurance/documents', {
        params: { query: { file: file.value!.name, title: offer.title, says: offer.says || undefined } },
        ...fileBody(file.value!),
      } as never),
    ),
  )
  if (done) Object.assign(offer, { title: '', says: '' })
}
const withdraw = (id: number) =>
  act(() => take(api.DELETE('/api/assurance/documents/{id}', { params: { path: { id } } })))
const days = ref(14)
const decide = (ask: Schemas['DocumentAskView'], yes: boolean) =>
  act(() =>
    take(
      api.POST('/api/assurance/asks/{id}/decision', {
        params: { path: { id: ask.id } },
        ...ifMatch(ask.revision),
        body: { give: yes, days: days.value },
      }),
    ),
  )
const client = reactive({ name: '', mail: '', endsOn: '' })
async function name() {
  if (await act(() => take(api.POST('/api/assurance/clients', { body: { ...client } }))))
    Object.assign(client, { name: '', mail: '', endsOn: '' })
}
const drop = (id: number) => act(() => take(api.DELETE('/api/assurance/clients/{id}', { params: { path: { id } } })))
const states: Record<string, string> = {
  waiting: '◐ waits for you',
  given: '✓ given',
  refused: '– refused',
  over: 'its link has ended',
}
</script>

<template>
  <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
  <div v-if="data" class="two">
    <section class="panel block" aria-label="Documents for the asking">
      <h2>Documents for the asking</h2>
      <p v-if="!data.documents.length" class="quiet small">
        None. A document here is named on the page; whoever asks gets a copy with their name on every page, once
        somebody agrees.
      </p>
      <ul class="plain">
        <li v-for="d in data.documents" :key="d.id">
          <strong>{{ d.title }}</strong> <span class="small quiet">{{ d.fileName }}, {{ bytes(d.bytes) }}</span>
          <button v-if="may('manageReadiness')" class="link small" :disabled="busy" @click="withdraw(d.id)">
            Withdraw
          </button>
          <div v-if="d.says" class="small quiet">{{ d.says }}</div>
        </li>
      </ul>
      <form v-if="may('manageReadiness')" class="add" @submit.prevent="give">
        <el-input v-model="offer.title" size="small" aria-label="Title" placeholder="Title" />
        <el-input v-model="offer.says" size="small" aria-label="What it says" placeholder="What it says, in a line" />
        <input type="file" accept="application/pdf,.pdf" aria-label="PDF" @change="choose" />
        <el-button size="small" native-type="submit" :disabled="!file || !offer.title.trim()" :loading="busy"
          >Offer it</el-button
        >
      </form>
      <h2>Named clients</h2>
      <p v-if="!data.clients.length" class="quiet small">
        Nobody. A named client gets every document by a link of their own.
      </p>
      <ul class="plain">
        <li v-for="c in data.clients" :key="c.id">
          <strong>{{ c.name }}</strong> <span class="small quiet">{{ c.mail }}</span>
          <span class="small" :class="{ lacking: c.over }">
            {{ c.over ? '▲ ended' : 'until' }} {{ day(c.endsOn) }}, {{ plural(c.opened, 'copy', 'copies') }}</span
          >
          <button v-if="may('manageReadiness')" class="link small" :disabled="busy" @click="drop(c.id)">Remove</button>
        </li>
      </ul>
      <form v-if="may('manageReadiness')" class="add" @submit.prevent="name">
        <el-input v-model="client.name" size="small" aria-label="Client" placeholder="Client" />
        <el-input v-model="client.mail" size="small" aria-label="Client’s mail address" placeholder="mail address" />
        <label class="small">until <input v-model="client.endsOn" type="date" aria-label="Client until" /></label>
        <el-button
          size="small"
          native-type="submit"
          :disabled="!client.name.trim() || !client.mail || !client.endsOn"
          :loading="busy"
          >Name them</el-button
        >
      </form>
    </section>
    <section class="panel block" aria-label="Who asked">
      <h2>Who asked</h2>
      <p v-if="!data.asks.length" class="quiet small">Nobody yet.</p>
      <p v-if="may('manageReadiness') && data.asks.some((a) => a.state === 'waiting')" class="small">
        A link opens for <el-input-number v-model="days" size="small" :min="1" :max="365" aria-label="Days" /> days.
      </p>
      <article v-for="a in data.asks" :key="a.id" class="ask">
        <p>
          <strong>{{ a.name }}</strong>, {{ a.organisation }} <span class="small quiet">{{ a.mail }}</span>
        </p>
        <p class="small">{{ a.document }}: “{{ a.reason }}”</p>
        <p class="small row">
          <span :class="a.state === 'waiting' ? 'lacking' : 'quiet'"
            >{{ states[a.state]
            }}<template v-if="a.state === 'given'">
              until {{ day(a.endsOn) }}, {{ plural(a.opened, 'copy', 'copies') }}</template
            ><template v-if="a.decidedBy"> · {{ a.decidedBy }}</template></span
          >
          <span class="quiet">asked {{ moment(a.askedAt) }}</span>
          <span v-if="a.state === 'waiting' && may('manageReadiness')" class="right">
            <el-button size="small" type="primary" :loading="busy" @click="decide(a, true)">Give it</el-button>
            <el-button size="small" :loading="busy" @click="decide(a, false)">Refuse</el-button>
          </span>
        </p>
      </article>
    </section>
  </div>
</template>

<style scoped>
.link,
li a {
  display: inline-block;
  line-height: 24px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
h2 {
  font-size: 16px;
}
p {
  margin: 0;
}
.plain li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}
.plain li > div {
  flex-basis: 100%;
}
.add .el-input {
  width: 220px;
}
.plain {
  list-style: none;
  padding: 0;
  margin: 0 0 10px;
  display: grid;
  gap: 4px;
}
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 14px;
}
.ask {
  display: grid;
  gap: 2px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.right {
  margin-left: auto;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
