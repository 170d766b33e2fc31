<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'

/**
 * A custodian's own page: the notices addressed to them and nothing else. Opened by the link of a mail, or signed in.
 */
const route = useRoute()
const key = computed(() => (typeof route.params.token === 'string' ? route.params.token : ''))
const { data, error } = useQuery({
  queryKey: computed(() => ['notices', key.value]),
  queryFn: () =>
    take(
      key.value ? api.GET('/api/notices/{token}', { params: { path: { token: key.value } } }) : api.GET('/api/notices'),
    ),
})
const { act, busy, problem } = useAct(['notices'])
const answers = reactive<Record<number, string[]>>({})
const refused = reactive<{ id: number | null }>({ id: null })
const waiting = (n: Schemas['NoticeLetter']) => n.kind === 'hold' && !n.superseded && !n.acknowledgedAt
watch(
  data,
  (page) => {
    for (const n of page?.notices ?? []) {
      answers[n.id] ??= n.questions.map(() => '')
      // To have it on screen is to have opened it.
      if (!n.openedAt && !n.superseded)
        void take(
          api.POST('/api/notices/{token}/{copy}/opening', { params: { path: { token: page!.token, copy: n.id } } }),
        ).catch(() => undefined)
    }
  },
  { immediate: true },
)
async function acknowledge(n: Schemas['NoticeLetter']) {
  refused.id = n.id
  await act(() =>
    take(
      api.POST('/api/notices/{token}/{copy}/acknowledgement', {
        params: { path: { token: data.value!.token, copy: n.id } },
        body: { answers: answers[n.id] ?? [] },
      }),
    ),
  )
}
</script>

<template>
  <main class="notices">
    <header>
      <p class="quiet small">{{ data?.organisation }}</p>
      <h1>Notices to {{ data?.name ?? 'you' }}</h1>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <p v-else-if="data?.notices.length === 0" class="quiet">Nothing is addressed to you.</p>
    <section v-if="data?.outstanding.length" class="panel" aria-label="People of yours">
      <h2>People of yours who have not acknowledged a notice</h2>
      <ul>
        <li v-for="o in data.outstanding" :key="o.name + o.sentOn">
          {{ o.name }}: sent {{ day(o.sentOn) }}, {{ plural(o.days, 'day') }} ago. Please see that they do.
        </li>
      </ul>
    </section>
    <article v-for="n in data?.notices ?? []" :key="n.id" class="panel" :class="{ old: n.superseded }">
      <p class="small quiet">Sent {{ day(n.sentAt) }}{{ n.superseded ? ' · a newer version stands' : '' }}</p>
      <h2>{{ n.subject }}</h2>
      <p class="text">{{ n.body }}</p>
      <p v-if="n.stillBound" class="lacking">
        ◆ Another notice to you still stands: keep what that one names until you are told otherwise.
      </p>
      <form v-if="waiting(n)" @submit.prevent="acknowledge(n)">
        <template v-for="(q, i) in n.questions" :key="q"
          ><label :for="`q-${n.id}-${i}`">{{ q }}</label
          ><textarea :id="`q-${n.id}-${i}`" v-model="answers[n.id]![i]" rows="2" maxlength="2000" />
        </template>
        <p v-if="problem && refused.id === n.id" class="problem" role="alert">{{ problem.message }}</p>
        <el-button
          type="primary"
          native-type="submit"
          size="large"
          :loading="busy"
          :disabled="answers[n.id]?.some((a) => !a.trim())"
          >I have read it and will keep what it names</el-button
        >
      </form>
      <p v-else-if="n.acknowledgedAt" class="settled">You acknowledged it on {{ day(n.acknowledgedAt) }}.</p>
      <dl v-if="n.acknowledgedAt && n.questions.length">
        <template v-for="(q, i) in n.questions" :key="q"
          ><dt>{{ q }}</dt>
          <dd>{{ n.answers[i] }}</dd></template
        >
      </dl>
    </article>
  </main>
</template>

<style scoped>
.notices {
  max-width: 680px;
  margin: 0 auto;
  padding: 24px 16px 60px;
  display: grid;
  gap: 16px;
}
header p {
  margin: 0;
}
h1 {
  font-size: 24px;
}
h2 {
  font-size: 19px;
}
article,
section {
  padding: 18px 20px;
  display: grid;
  gap: 10px;
}
article p {
  margin: 0;
}
.old {
  opacity: 0.7;
}
.text {
  white-space: pre-wrap;
  font-size: 15.5px;
  line-height: 1.6;
}
form {
  display: grid;
  gap: 8px;
  border-top: 1px solid var(--line);
  padding-top: 12px;
}
label {
  font-weight: 600;
}
textarea {
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  padding: 8px;
}
form .el-button {
  justify-self: start;
  white-space: normal;
  height: auto;
  min-height: 40px;
}
.settled {
  color: var(--sea);
  font-weight: 600;
}
dl {
  margin: 0;
  display: grid;
  gap: 2px;
}
dt {
  color: var(--ink-3);
  font-size: 13px;
}
dd {
  margin: 0 0 6px;
}
</style>
