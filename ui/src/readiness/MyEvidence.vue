<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { day, moment } from '@/shared/format'
import { today } from '@/shared/session'
import { useMyEvidence } from './mine'
import FindingAnswer from './FindingAnswer.vue'
import OfferChoice from './OfferChoice.vue'
import PartLine from './PartLine.vue'
import { requestWords } from './words'

/** Evidence and routines that one brings, what one is asked for in audits, and what is kept for one's role. */
const { data, error } = useMyEvidence()
const { act, busy, problem } = useAct(['readiness'])
const open = ref('')
const toggle = (what: string) => (open.value = open.value === what ? '' : what)
const ready = (id: number, number: number) =>
  act(() =>
    take(
      api.POST('/api/audits/{id}/requests/{number}/state', {
        params: { path: { id, number } },
        body: { state: 'ready', remark: '' },
      }),
    ),
  )
</script>

<template>
  <main class="page">
    <header><h1>My evidence</h1></header>
    <p v-if="problem ?? error" class="problem" role="alert">{{ (problem ?? error)!.message }}</p>
    <template v-if="data">
      <p v-if="data.parts.length + data.requests.length + data.actions.length === 0" class="quiet">
        Nothing: no control and no audit names you, and nothing is kept for your role.
      </p>
      <section v-if="data.requests.length" class="panel block" aria-label="Asked for in audits">
        <h2>Asked for in audits</h2>
        <article v-for="r in data.requests" :key="`${r.audit} ${r.number}`">
          <strong>{{ r.number }}. {{ r.what }}</strong>
          <p class="small">
            {{ r.audit }} · <span :class="{ lacking: r.due < today }">due {{ day(r.due) }}</span> ·
            <span :class="{ lacking: r.state === 'returned' }">{{ requestWords[r.state] }}</span>
          </p>
          <p v-for="m in r.remarks" :key="m.at" class="small quiet">{{ m.by }}, {{ moment(m.at) }}: {{ m.text }}</p>
          <p class="acts-row small">
            <button class="link" @click="toggle(`r${r.auditId} ${r.number}`)">Submit evidence</button>
            <button v-if="r.state !== 'ready'" class="link" :disabled="busy" @click="ready(r.auditId, r.number)">
              Ready for review
            </button>
          </p>
          <OfferChoice
            v-if="open === `r${r.auditId} ${r.number}`"
            :audit="r.auditId"
            :number="r.number"
            @done="open = ''"
          />
        </article>
        <p class="small quiet">Add new evidence below, then submit it here.</p>
      </section>
      <section v-if="data.actions.length" class="panel block" aria-label="To do after audits">
        <h2>To do after audits</h2>
        <article v-for="a in data.actions" :key="`${a.audit} ${a.finding}`">
          <strong>{{ a.action || a.finding }}</strong>
          <p class="small">
            On “{{ a.finding }}” ({{ a.severity }}), {{ a.audit
            }}<template v-if="a.due">
              · <span :class="{ lacking: a.due < today }">due {{ day(a.due) }}</span></template
            >
          </p>
          <button class="link small" @click="toggle(`a${a.findingId}`)">Respond</button>
          <FindingAnswer
            v-if="open === `a${a.findingId}`"
            :audit="a.auditId"
            :finding="a.findingId"
            :was="a"
            @done="open = ''"
          />
        </article>
      </section>
      <section v-if="data.parts.length" class="panel block" aria-label="Evidence and routines">
        <h2>Evidence and routines</h2>
        <article v-for="p in data.parts" :key="p.part.id">
          <p class="small quiet">{{ p.control }} · {{ p.controlTitle }}</p>
          <PartLine :part="p.part" :control="p.controlId" :revision="p.revision" />
        </article>
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 14px;
  align-content: start;
  max-width: 960px;
}
h1 {
  font-size: 20px;
}
h2 {
  font-size: 16px;
}
section {
  display: grid;
  gap: 10px;
}
p {
  margin: 0;
}
</style>
