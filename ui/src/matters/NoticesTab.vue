<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { keepTyped } from '@/shared/typed'
import NoticeCard from './NoticeCard.vue'

const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const path = { params: { path: { id: matter.id } } }
const { act, busy, problem, put } = useAct(['matters'])
const writing = ref(false)
const lead = computed(() => matter.part === 'lead' && matter.state !== 'deleted' && matter.state !== 'closed')
const beginnings: Record<Schemas['NoticeKind'], { subject: string; body: string }> = {
  hold: {
    subject: 'Please keep everything about {matter}',
    body:
      'Dear {name},\n\n{organisation} must keep information about {matter} ({number}). Until further notice, ' +
      'please keep everything that speaks of it, wherever it lies: files, mails, messages, notes on paper. ' +
      'Do not delete, change or tidy up any of it.\n\n{from}',
  },
  release: {
    subject: 'Released: {matter}',
    body:
      'Dear {name},\n\nyour duty to keep information about {matter} ({number}) has ended. ' +
      'From now on the ordinary rules apply again.\n\n{from}',
  },
}
const form = reactive({
  kind: 'hold' as Schemas['NoticeKind'],
  subject: '',
  body: '',
  questions: '',
  remindDays: 7,
  escalateDays: 21,
  custodians: [] as number[],
})
const saved = keepTyped(`notice.${matter.id}`, form)
const body = computed(() => ({
  ...form,
  questions: form.questions
    .split('\n')
    .map((q) => q.trim())
    .filter(Boolean),
}))
const asked = refDebounced(
  computed(() => JSON.stringify(body.value)),
  300,
)
const preview = useQuery({
  queryKey: computed(() => ['notice-preview', matter.id, asked.value]),
  queryFn: () =>
    take(
      api.POST('/api/matters/{id}/notices/preview', { ...path, body: JSON.parse(asked.value) as Schemas['NewNotice'] }),
    ),
  enabled: writing,
  placeholderData: keepPreviousData,
  retry: false,
})
function begin(kind: Schemas['NoticeKind']) {
  problem.value = null
  const last = matter.notices.find((n) => n.kind === kind)
  Object.assign(form, {
    kind,
    subject: last?.subject ?? beginnings[kind].subject,
    body: last?.body ?? beginnings[kind].body,
    questions: kind === 'hold' ? (last?.questions ?? ['Where do you keep information about it?']).join('\n') : '',
    remindDays: last?.remindDays ?? 7,
    escalateDays: last?.escalateDays ?? 21,
    custodians: [],
  })
  writing.value = true
}
async function issue() {
  const done = await act(async () =>
    put(['matter', matter.id], await take(api.POST('/api/matters/{id}/notices', { ...path, body: body.value }))),
  )
  if (done) {
    saved()
    writing.value = false
  }
}
const to = computed(() => form.custodians.length || matter.custodians.length)
</script>

<template>
  <section class="notices" aria-label="Notices">
    <header>
      <h2>Notices</h2>
      <span v-if="lead" class="acts-row"
        ><el-button v-if="matter.state === 'open'" size="small" @click="begin('hold')">{{
          matter.notices.some((n) => n.kind === 'hold') ? 'Issue a new version' : 'Write a notice'
        }}</el-button
        ><el-button v-if="matter.notices.length" size="small" @click="begin('release')">Release notice</el-button></span
      >
    </header>
    <p v-if="matter.notices.length === 0" class="quiet">
      Nobody has been notified yet. A notice says what its custodians must keep; they acknowledge it on a page of their
      own, are reminded, and after that their manager is notified.
    </p>
    <NoticeCard v-for="n in matter.notices" :key="n.id" :notice="n" />
    <el-dialog
      v-model="writing"
      :title="form.kind === 'hold' ? 'Write a notice' : 'Write a release notice'"
      width="900"
      append-to-body
    >
      <div class="two">
        <form class="fields" @submit.prevent="issue">
          <label class="label" for="n-subject">Subject</label><el-input id="n-subject" v-model="form.subject" />
          <label class="label" for="n-body"
            >Text, with the fields {name}, {matter}, {number}, {organisation}, {from}</label
          ><el-input id="n-body" v-model="form.body" type="textarea" :rows="9" />
          <template v-if="form.kind === 'hold'">
            <label class="label" for="n-questions">Questions to be answered, one a line</label
            ><el-input id="n-questions" v-model="form.questions" type="textarea" :rows="3" />
            <p class="row">
              <label class="label" for="n-remind">Remind every</label
              ><el-input-number id="n-remind" v-model="form.remindDays" size="small" :min="0" :max="365" /><span
                class="small quiet"
                >days</span
              >
            </p>
            <p class="row">
              <label class="label" for="n-escalate">Notify the manager after</label
              ><el-input-number id="n-escalate" v-model="form.escalateDays" size="small" :min="0" :max="365" /><span
                class="small quiet"
                >days; 0 for never</span
              >
            </p>
          </template>
          <label class="label" for="n-to">To</label
          ><el-select id="n-to" v-model="form.custodians" aria-label="Custodians" multiple placeholder="all custodians"
            ><el-option v-for="c in matter.custodians" :key="c.id" :value="c.id" :label="c.name"
          /></el-select>
          <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
        </form>
        <section class="panel letter" aria-label="As it will be read">
          <template v-if="preview.data.value"
            ><p class="small quiet">{{ preview.data.value.to }}</p>
            <h3>{{ preview.data.value.subject }}</h3>
            <pre>{{ preview.data.value.body }}</pre>
          </template>
          <p v-if="preview.error.value" class="problem">{{ preview.error.value.message }}</p>
        </section>
      </div>
      <template #footer
        ><el-button @click="writing = false">Leave it</el-button
        ><el-button type="primary" :loading="busy" :disabled="!!preview.error.value" @click="issue"
          >Send to {{ plural(to, 'custodian') }}</el-button
        ></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
.notices {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h2 {
  font-size: 16px;
}
h3 {
  font-size: 15px;
  margin: 0;
}
pre {
  font: 400 14px/1.55 var(--sans);
  white-space: pre-wrap;
  margin: 6px 0 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
}
.letter {
  padding: 14px 18px;
  background: var(--sheet-2);
  align-self: start;
  max-height: 460px;
  overflow: auto;
}
.letter p {
  margin: 0 0 6px;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
