<script setup lang="ts">
import { day, moment } from '@/shared/format'
import { today } from '@/shared/session'
import { useMyEvidence } from './mine'
import PartLine from './PartLine.vue'
import { requestWords } from './words'

/** Evidence and routines that one brings, what one is asked for in audits, and what is kept for one's role. */
const { data, error } = useMyEvidence()
</script>

<template>
  <main class="page">
    <header><h1>My evidence</h1></header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
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
        </article>
        <p class="small quiet">Bring what shows it below; whoever manages readiness offers it to the auditor.</p>
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
        </article>
      </section>
      <section v-if="data.parts.length" class="panel block" aria-label="Evidence and routines">
        <h2>Evidence and routines</h2>
        <article v-for="p in data.parts" :key="p.part.id">
          <p class="small quiet">{{ p.control }} · {{ p.controlTitle }}</p>
          <PartLine :part="p.part" :control="p.controlId" />
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
