<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { bytes, count, moment, plural } from '@/shared/format'

const { data, error } = useQuery({ queryKey: ['safekeeping'], queryFn: () => take(api.GET('/api/safekeeping')) })
const { act, busy, problem } = useAct(['copies'])
const verify = () => act(() => take(api.POST('/api/safekeeping/verification', {})))
</script>

<template>
  <section class="panel source" aria-label="Safekeeping">
    <header>
      <h2>Safekeeping</h2>
      <span class="quiet small">protected copies, outside every source</span
      ><span class="right"
        ><el-button v-if="may('scanSources')" :loading="busy" @click="verify">Verify all copies</el-button></span
      >
    </header>
    <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <dl v-if="data" class="kv">
      <dt>Copies</dt>
      <dd>
        {{ count(data.copies) }} of {{ plural(data.contents, 'different content') }}, {{ bytes(data.bytes) }};
        {{ bytes(data.saved) }} saved by storing each content once
      </dd>
      <dt>Of deleted items</dt>
      <dd>
        <RouterLink v-if="data.ofDeleted && may('readContent')" to="/content?missing=true"
          >{{ plural(data.ofDeleted, 'copy', 'copies') }}, {{ bytes(data.ofDeletedBytes) }}</RouterLink
        ><span v-else>{{
          data.ofDeleted ? `${plural(data.ofDeleted, 'copy', 'copies')}, ${bytes(data.ofDeletedBytes)}` : 'none'
        }}</span>
      </dd>
      <dt>Verified</dt>
      <dd>{{ data.verifiedAt ? `${moment(data.verifiedAt)}: ${data.verified}` : 'not yet; each morning does' }}</dd>
    </dl>
    <table v-if="data?.broken.length" class="sheet">
      <thead>
        <tr>
          <th>Broken copy</th>
          <th>Of</th>
          <th>What is wrong</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="b in data.broken" :key="b.hash">
          <td class="hash" :title="b.hash">{{ b.hash.slice(0, 16) }}…</td>
          <td>
            <template v-for="i in b.items" :key="i.id"
              ><RouterLink v-if="may('readContent')" :to="`/content?item=${i.id}`">{{ i.title }}</RouterLink
              ><span v-else>{{ i.title }}</span
              >&#32;</template
            >
          </td>
          <td class="problem">{{ b.fault }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.source {
  padding: 16px 20px;
  display: grid;
  gap: 12px;
}
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.right {
  margin-left: auto;
}
h2 {
  font-size: 18px;
}
.hash {
  font-size: 12px;
}
</style>
