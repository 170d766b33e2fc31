<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { bytes, count, moment, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import ConnectSource from './ConnectSource.vue'
import SafekeepingPanel from './SafekeepingPanel.vue'
import { kinds } from './source-kinds'

const { number } = useUrl()
const exceptionsOf = number('exceptions')
const { data, error } = useQuery({ queryKey: ['sources'], queryFn: () => take(api.GET('/api/sources')) })
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
const exceptions = useQuery({
  queryKey: computed(() => ['exceptions', exceptionsOf.value]),
  queryFn: () => take(api.GET('/api/sources/{id}/exceptions', { params: { path: { id: exceptionsOf.value! } } })),
  enabled: computed(() => !!exceptionsOf.value),
})
const adding = ref(false)
const { act, problem } = useAct(['sources'])

async function scan(s: Schemas['SourceView']) {
  if (await act(() => take(api.POST('/api/sources/{id}/scans', { params: { path: { id: s.id } } }))))
    ElMessage({ message: `${s.name} is being scanned.`, type: 'success' })
}
const tested = ref<{ id: number; result: Schemas['SourceTest'] } | null>(null)
const test = (s: Schemas['SourceView']) =>
  act(
    async () =>
      (tested.value = {
        id: s.id,
        result: await take(api.POST('/api/sources/{id}/test', { params: { path: { id: s.id } } })),
      }),
  )
const connect = (s: Schemas['SourceView'], connected: boolean) =>
  act(() =>
    take(
      api.PUT('/api/sources/{id}', {
        params: { path: { id: s.id } },
        ...ifMatch(s.revision),
        body: { name: s.name, connected },
      }),
    ),
  )
const assign = (c: Schemas['ContainerView'], unitId: number) =>
  act(() =>
    take(api.PUT('/api/containers/{id}', { params: { path: { id: c.id } }, ...ifMatch(c.revision), body: { unitId } })),
  )
</script>

<template>
  <main class="page">
    <header>
      <h1>Sources</h1>
      <span class="quiet">connected systems that hold content</span
      ><el-button v-if="may('manageSources')" class="right" type="primary" @click="adding = true"
        >Connect a source</el-button
      >
    </header>
    <p v-if="error" class="problem">{{ error.message }}</p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <section v-if="data?.length === 0" class="panel empty">
      <h2>No source yet</h2>
      <p class="quiet">
        Connect a directory on this server. It is scanned, never written to, until items that were signed for are
        destroyed.
      </p>
    </section>
    <section v-for="s in data ?? []" :key="s.id" class="panel source" :aria-label="s.name">
      <header>
        <h2>{{ s.name }}</h2>
        <span class="quiet small">{{ kinds[s.kind].name }} · {{ s.root }}</span>
        <span class="right acts-row"
          ><el-button v-if="may('scanSources')" @click="test(s)">Test the connection</el-button
          ><el-button v-if="may('scanSources') && s.connected" @click="scan(s)">Scan now</el-button
          ><el-button v-if="may('manageSources')" @click="connect(s, !s.connected)">{{
            s.connected ? 'Disconnect' : 'Connect again'
          }}</el-button></span
        >
      </header>
      <dl class="kv">
        <dt>Can</dt>
        <dd>{{ kinds[s.kind].can }}</dd>
        <dt>Connection</dt>
        <dd>
          <span v-if="!s.connected" class="lacking"
            >disconnected: it is not scanned, and what is known of it stays as it was. </span
          ><template v-if="tested?.id === s.id"
            ><span role="status" :class="{ lacking: !tested.result.good }"
              >{{ tested.result.says }}
              {{
                tested.result.good
                  ? `${plural(tested.result.found, 'entry', 'entries')}, ${tested.result.unreadable} unreadable, ` +
                    `in ${tested.result.seconds.toFixed(1)} s.`
                  : ''
              }}</span
            ></template
          ><template v-else>{{
            s.reachable ? 'the directory can be opened' : 'the directory cannot be opened now'
          }}</template>
        </dd>
        <dt>Last scan</dt>
        <dd>{{ s.lastScan ? moment(s.lastScan) : 'never' }}</dd>
        <dt>Content</dt>
        <dd>{{ plural(s.items, 'item') }}, {{ bytes(s.bytes) }}</dd>
        <dt>Exceptions</dt>
        <dd>
          <button
            v-if="s.unreadable"
            class="link"
            :aria-expanded="exceptionsOf === s.id"
            @click="exceptionsOf = exceptionsOf === s.id ? null : s.id"
          >
            {{ count(s.unreadable) }} could not be read</button
          ><span v-else>none</span>
        </dd>
      </dl>
      <table v-if="exceptionsOf === s.id && exceptions.data.value">
        <thead>
          <tr>
            <th>Path</th>
            <th>Why</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in exceptions.data.value" :key="e.path">
            <td class="path">{{ e.path }}</td>
            <td>{{ e.reason }}</td>
          </tr>
        </tbody>
      </table>
      <table>
        <thead>
          <tr>
            <th>Container</th>
            <th>Unit</th>
            <th class="num">Items</th>
            <th class="num">Size</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in s.containers" :key="c.id">
            <td>
              <RouterLink v-if="may('readContent')" :to="`/content?container=${c.id}`">{{ c.name }}</RouterLink><span
                v-else
                >{{ c.name }}</span
              >
            </td>
            <td>
              <select
                v-if="may('manageSources')"
                class="box"
                :aria-label="`Unit of ${c.name}`"
                :value="c.unitId"
                @change="assign(c, +($event.target as HTMLSelectElement).value)"
              >
                <option v-for="u in units.data.value ?? []" :key="u.id" :value="u.id">{{ u.name }}</option></select
              ><span v-else>{{ c.unit }}</span>
            </td>
            <td class="num">{{ count(c.items) }}</td>
            <td class="num">{{ bytes(c.bytes) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <SafekeepingPanel />
    <ConnectSource v-if="adding" @close="adding = false" />
  </main>
</template>

<style scoped>
.page {
  max-width: 1040px;
  margin: 0 auto;
  padding: 24px 20px 40px;
  display: grid;
  gap: 16px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
.right {
  margin-left: auto;
}
h1 {
  font-size: 25px;
}
h2 {
  font-size: 18px;
}
.source {
  padding: 16px 20px;
  display: grid;
  gap: 14px;
}
.empty {
  padding: 28px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 5px 12px 5px 0;
  border-bottom: 1px solid var(--line);
  font-size: 13.5px;
}
th {
  font-size: 12px;
  color: var(--ink-2);
}
.num {
  text-align: right;
}
.path {
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
.box {
  height: 28px;
  padding: 0 6px;
}
</style>
