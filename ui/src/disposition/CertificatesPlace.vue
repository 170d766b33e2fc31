<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import DataTable, { type Column } from '@/shared/DataTable.vue'
import { bytes, count, moment, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'

interface Document {
  method: string
  series: { code: string; title: string; version: number; authority: string }
  approvals: { stage: number; by: string; at: string; comment: string; opened: number; of: number }[]
  items: {
    id: number
    source: string
    path: string
    title: string
    sha256: string
    bytes: number
    created: string
    keptThrough: string
    destroyed: string
    entry: number
  }[]
  notDestroyed: { id: number; path: string; outcome: string; why: string | null }[]
  ledger: { size: number; root: string; at: string }
}
const { number } = useUrl()
const open = number('certificate')
const { data, error, isFetching } = useQuery({
  queryKey: ['certificates'],
  queryFn: () => take(api.GET('/api/certificates')),
})
const certificate = computed(() => data.value?.find((c) => c.id === open.value))
const document = useQuery({
  queryKey: computed(() => ['certificate', open.value]),
  queryFn: async () => (await (await fetch(`/api/certificates/${open.value}/document.json`)).json()) as Document,
  enabled: computed(() => !!certificate.value?.hasList),
})
const columns: Column[] = [
  { key: 'number', label: 'Number', width: 100 },
  { key: 'series', label: 'Series', width: 170, grow: true },
  { key: 'items', label: 'Items', width: 70, align: 'right' },
  { key: 'issued', label: 'Issued', width: 110 },
]
</script>

<template>
  <Workbench name="certificates" :subject="!!certificate">
    <template #list>
      <header class="head">
        <h1>Certificates of destruction</h1>
        <RouterLink to="/schedule/docket" class="small">Docket</RouterLink>
      </header>
      <p v-if="error" class="problem">{{ error.message }}</p>
      <DataTable
        name="certificates"
        label="Certificates"
        :rows="data ?? []"
        :columns="columns"
        :total="data?.length ?? 0"
        word="certificate"
        :loading="isFetching"
        :open="open"
        @open="open = $event.id"
      >
        <template #number="{ row }">{{ row.number }}</template><template #series="{ row }"
          >{{ row.code }} {{ row.title }}</template
        ><template #items="{ row }">{{ count(row.items) }}</template
        ><template #issued="{ row }"
          ><span :title="row.issuedAt">{{ moment(row.issuedAt).split(',')[0] }}</span></template
        >
        <template #empty
          ><h2>No certificate yet</h2>
          <p>When a batch has been signed and destroyed, its certificate stands here.</p></template
        >
      </DataTable>
    </template>
    <template #subject>
      <article v-if="certificate" class="certificate">
        <p class="small quiet">
          {{ certificate.code }} · batch
          <RouterLink :to="`/schedule/docket?batch=${certificate.batchId}`">{{ certificate.batchId }}</RouterLink>
        </p>
        <h1>Certificate of destruction {{ certificate.number }}</h1>
        <p>
          {{ plural(certificate.items, 'item') }}, {{ bytes(certificate.bytes) }}, issued
          {{ moment(certificate.issuedAt) }}.
        </p>
        <p v-if="!certificate.hasList" class="quiet">
          This certificate’s own term is over: its list is gone; its number and counts remain.
        </p>
        <p v-else class="acts">
          <a :href="`/api/certificates/${certificate.id}/document.pdf`" download>PDF</a
          ><a :href="`/api/certificates/${certificate.id}/document.csv`" download>CSV</a
          ><a :href="`/api/certificates/${certificate.id}/document.json`" download>JSON with proofs</a>
        </p>
        <template v-if="certificate.hasList && document.data.value">
          <dl class="kv">
            <dt>Series</dt>
            <dd>
              {{ document.data.value.series.code }} {{ document.data.value.series.title }}, version
              {{ document.data.value.series.version }}
            </dd>
            <dt>Authority</dt>
            <dd>{{ document.data.value.series.authority || 'none given' }}</dd>
            <dt>Method</dt>
            <dd>{{ document.data.value.method }}</dd>
            <template v-for="a in document.data.value.approvals" :key="a.stage"
              ><dt>Stage {{ a.stage }}</dt>
              <dd>
                {{ a.by }}, {{ moment(a.at) }}, after {{ count(a.opened) }} of {{ count(a.of) }} were opened: “{{
                  a.comment
                }}”
              </dd></template
            >
            <dt>Ledger</dt>
            <dd>
              {{ count(document.data.value.ledger.size) }} entries, root
              <span class="hash">{{ document.data.value.ledger.root }}</span>
            </dd>
          </dl>
          <h2>Destroyed</h2>
          <div class="rows" tabindex="0">
            <table>
              <thead>
                <tr>
                  <th>Path</th>
                  <th>Source</th>
                  <th>Created</th>
                  <th>Kept through</th>
                  <th class="num">Entry</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="i in document.data.value.items" :key="i.id">
                  <td :title="i.sha256">
                    <RouterLink :to="`/content?item=${i.id}`">{{ i.path }}</RouterLink>
                  </td>
                  <td>{{ i.source }}</td>
                  <td>{{ i.created }}</td>
                  <td>{{ i.keptThrough }}</td>
                  <td class="num">{{ count(i.entry) }}</td>
                </tr>
              </tbody>
            </table>
          </div>
          <template v-if="document.data.value.notDestroyed.length"
            ><h2>In the batch, not destroyed</h2>
            <ul>
              <li v-for="i in document.data.value.notDestroyed" :key="i.id">{{ i.path }}: {{ i.why ?? i.outcome }}</li>
            </ul></template
          >
        </template>
      </article>
    </template>
  </Workbench>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 14px 16px 10px;
}
.head a {
  margin-left: auto;
}
h1 {
  font-size: 18px;
}
.certificate {
  display: grid;
  gap: 10px;
}
.certificate h1 {
  font-size: 23px;
}
.certificate h2 {
  font-size: 16px;
  margin-top: 8px;
}
.certificate p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 16px;
}
.rows {
  max-height: 46vh;
  overflow: auto;
  border: 1px solid var(--line);
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
th,
td {
  text-align: left;
  padding: 5px 10px;
  border-bottom: 1px solid var(--line);
}
th {
  position: sticky;
  top: 0;
  background: var(--sheet-2);
  font-size: 12px;
}
.num {
  text-align: right;
}
.hash {
  font-size: 12px;
  color: var(--ink-2);
}
</style>
