<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { count, moment, plural } from '@/shared/format'

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
const hooks = useQuery({ queryKey: ['webhooks'], queryFn: () => take(api.GET('/api/webhooks')) })
const mail = reactive({
  host: '',
  port: 587,
  tls: true,
  user: '',
  password: null as string | null,
  from: '',
  address: '',
  certificateYears: 7,
})
watch(
  settings.data,
  (s) =>
    s &&
    Object.assign(mail, {
      host: s.host,
      port: s.port,
      tls: s.tls,
      user: s.user,
      password: null,
      from: s.from,
      address: s.address,
      certificateYears: s.certificateYears,
    }),
  { immediate: true },
)
/** As people write it. */
const here = 'https://records.tarnholm.example'
const { act, busy, problem } = useAct(['messages'])
const opened = ref<string | null>(null)
const letter = computed(() => sink.data.value?.find((m) => m.name === opened.value))
const hook = ref<{
  id: number | null
  revision: number
  name: string
  url: string
  secret: string
  active: boolean
} | null>(null)
const showing = ref<'sink' | 'sent'>('sent')

const say = (message: string) => ElMessage({ message, type: 'success' })
const save = async () => (await act(() => take(api.PUT('/api/mail-settings', { body: { ...mail } })))) && say('Saved.')
const test = async () =>
  (await act(() => take(api.POST('/api/mail-settings/test', {})))) && say('The mail server took the test.')
const retry = (m: Schemas['MessageView']) =>
  act(() => take(api.POST('/api/messages/{id}/retry', { params: { path: { id: m.id } } })))
const editHook = (w: Schemas['WebhookView'] | null) => {
  problem.value = null
  hook.value = w
    ? { id: w.id, revision: w.revision, name: w.name, url: w.url, secret: '', active: w.active }
    : { id: null, revision: 0, name: '', url: 'https://', secret: '', active: true }
}
async function saveHook() {
  const h = hook.value!
  const body = { name: h.name, url: h.url, secret: h.secret || null, active: h.active }
  if (
    await act(() =>
      h.id
        ? take(api.PUT('/api/webhooks/{id}', { params: { path: { id: h.id } }, ...ifMatch(h.revision), body }))
        : take(api.POST('/api/webhooks', { body })),
    )
  )
    hook.value = null
}
const removeHook = (w: Schemas['WebhookView']) =>
  act(() => take(api.DELETE('/api/webhooks/{id}', { params: { path: { id: w.id } } })))
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
    <p v-if="problem && !hook" class="problem" role="alert">{{ problem.message }}</p>
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
          Nobody has been told anything yet. Messages go out when a batch waits for somebody, when somebody is asked,
          and when something was carried out.
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
                  <RouterLink :to="m.link">{{ m.subject }}</RouterLink>
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
      <template v-else>
        <p class="small quiet">
          No mail leaves this machine: a small mail server inside takes everything and keeps it as .eml files.
        </p>
        <div class="sink">
          <ul class="letters">
            <li v-for="m in sink.data.value ?? []" :key="m.name">
              <button :aria-current="m.name === opened" @click="opened = m.name">
                <strong>{{ m.subject }}</strong><small class="quiet">{{ m.to }}</small>
              </button>
            </li>
          </ul>
          <article v-if="letter">
            <p class="small quiet">
              {{ letter.from }} to {{ letter.to }}, {{ moment(letter.date) }} ·
              <a :href="`/api/mail-sink/${letter.name}`" download>.eml</a>
            </p>
            <h3>{{ letter.subject }}</h3>
            <pre>{{ letter.text }}</pre>
          </article>
          <p v-else class="quiet">Choose a mail to read it.</p>
        </div>
      </template>
    </section>
    <section class="panel block" aria-label="Mail server">
      <h2>Mail server</h2>
      <p v-if="settings.data.value?.toSink" class="small quiet">
        While the sink stands in, these settings wait; they count once the product is started without it.
      </p>
      <p v-else-if="!mail.host" class="small quiet">None yet: messages are kept until there is one.</p>
      <form class="pairs" @submit.prevent="save">
        <div>
          <label class="label" for="m-host">Host</label
          ><el-input id="m-host" v-model="mail.host" placeholder="mail.tarnholm.example" />
        </div>
        <div>
          <label class="label" for="m-port">Port</label
          ><el-input id="m-port" v-model.number="mail.port" type="number" />
        </div>
        <div>
          <label class="label" for="m-user">User</label><el-input id="m-user" v-model="mail.user" autocomplete="off" />
        </div>
        <div>
          <label class="label" for="m-password">Password</label
          ><el-input
            id="m-password"
            v-model="mail.password"
            type="password"
            autocomplete="new-password"
            :placeholder="settings.data.value?.hasPassword ? 'unchanged' : ''"
          />
        </div>
        <div>
          <label class="label" for="m-from">From</label
          ><el-input id="m-from" v-model="mail.from" placeholder="records@tarnholm.example" />
        </div>
        <div>
          <label class="label" for="m-address">Address of this product, for links</label
          ><el-input id="m-address" v-model="mail.address" :placeholder="here" />
        </div>
        <div>
          <label class="label" for="m-years">Certificates stay, in years</label
          ><el-input id="m-years" v-model.number="mail.certificateYears" type="number" />
        </div>
        <div class="check">
          <label><input v-model="mail.tls" type="checkbox" /> encrypted (STARTTLS)</label>
        </div>
        <p class="acts-row">
          <el-button type="primary" native-type="submit" :loading="busy">Save</el-button
          ><el-button :loading="busy" @click="test">Send me a test</el-button>
        </p>
      </form>
    </section>
    <section class="panel block" aria-label="Webhooks">
      <header>
        <h2>Webhooks</h2>
        <el-button size="small" class="right" @click="editHook(null)">Add a webhook</el-button>
      </header>
      <p class="small quiet">
        Other systems are told of batches, signatures, certificates and proposals by HTTP. Each body is signed: header
        X-WideKeel-Signature, HMAC-SHA256.
      </p>
      <table v-if="hooks.data.value?.length" class="sheet">
        <thead>
          <tr>
            <th>Name</th>
            <th>Address</th>
            <th class="num">Informed</th>
            <th class="num">Waiting</th>
            <th>Last failure</th>
            <th><span class="sr">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="w in hooks.data.value" :key="w.id">
            <td>{{ w.name }} <span v-if="!w.active" class="small quiet">off</span></td>
            <td class="url">{{ w.url }}</td>
            <td class="num">{{ count(w.sent) }}</td>
            <td class="num">{{ count(w.waiting) }}</td>
            <td class="lacking">{{ w.lastFailure ?? '' }}</td>
            <td class="num">
              <button class="link" :aria-label="`Change ${w.name}`" @click="editHook(w)">Change</button>
              {{ ' ' }}
              <button
                class="link"
                :aria-label="`Remove ${w.name}, with ${plural(w.waiting, 'delivery', 'deliveries')} that wait`"
                @click="removeHook(w)"
              >
                Remove
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <el-dialog
      v-if="hook"
      model-value
      :title="hook.id ? hook.name : 'Add a webhook'"
      width="480"
      append-to-body
      @close="hook = null"
    >
      <form class="fields" @submit.prevent="saveHook">
        <label class="label" for="w-name">Name</label
        ><el-input id="w-name" v-model="hook.name" placeholder="Ticket desk" />
        <label class="label" for="w-url">Address</label><el-input id="w-url" v-model="hook.url" />
        <label class="label" for="w-secret">Key of the signature</label
        ><el-input
          id="w-secret"
          v-model="hook.secret"
          type="password"
          autocomplete="new-password"
          :placeholder="hook.id ? 'unchanged' : 'at least 16 characters'"
        />
        <label><input v-model="hook.active" type="checkbox" /> on</label>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="hook = null">Leave it</el-button
        ><el-button type="primary" :loading="busy" @click="saveHook">Save</el-button></template
      >
    </el-dialog>
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
.right {
  margin-left: auto;
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
.url {
  overflow-wrap: anywhere;
}
.sink {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 18px;
}
.letters {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 360px;
  overflow: auto;
  border: 1px solid var(--line);
}
.letters button {
  display: grid;
  width: 100%;
  text-align: left;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
  padding: 6px 12px;
  color: var(--ink);
  cursor: pointer;
}
.letters button:hover {
  background: var(--sheet-2);
}
.letters button[aria-current='true'] {
  background: var(--sea-wash);
}
.letters strong {
  font-weight: 600;
  font-size: 13.5px;
}
pre {
  font: 14px/1.5 var(--sans);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 8px 0 0;
}
h3 {
  font-size: 16px;
  margin: 4px 0 0;
}
article p {
  margin: 0;
}
.pairs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 10px 16px;
}
.pairs > div {
  display: grid;
  gap: 4px;
  align-content: start;
}
.pairs .check {
  align-content: end;
}
.acts-row {
  grid-column: 1 / -1;
  display: flex;
  gap: 8px;
  margin: 0;
}
.acts-row .el-button {
  margin: 0;
}
</style>
