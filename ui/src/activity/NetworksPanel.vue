<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, take } from '@/shared/api/client'

/** The networks that the organisation names, and the table of places: what events are given when they arrive. */
const networks = useQuery({ queryKey: ['channels', 'networks'], queryFn: () => take(api.GET('/api/networks')) })
const rows = ref<{ name: string; ranges: string; egress: boolean }[]>([])
watch(
  () => networks.data.value,
  (now) => (rows.value = (now ?? []).map((n) => ({ ...n, ranges: n.ranges.join(' ') }))),
  { immediate: true },
)
const { act, busy, problem } = useAct(['channels'])
const loaded = ref('')
const save = () =>
  act(() =>
    take(
      api.PUT('/api/networks', {
        body: rows.value.map((r) => ({
          name: r.name.trim(),
          ranges: r.ranges.split(/[\s,]+/).filter(Boolean),
          egress: r.egress,
        })),
      }),
    ),
  )
async function places(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const done = await act(() =>
    take(
      file.name.toLowerCase().endsWith('.mmdb')
        ? api.PUT('/api/places/mmdb', fileBody(file) as never)
        : api.PUT('/api/places/csv', fileBody(file) as never),
    ),
  )
  loaded.value = done ? file.name : ''
  input.value = ''
}
</script>

<template>
  <section class="panel block" aria-label="Networks and places">
    <h2>Networks and places</h2>
    <p class="quiet small">
      An event is given its network and place when it arrives, and keeps them. The narrowest range counts.
    </p>
    <table class="sheet">
      <thead>
        <tr>
          <th>Name</th>
          <th>Ranges, such as 192.0.2.0/24</th>
          <th>Shared exit</th>
          <th><span class="sr">Take away</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in rows" :key="i">
          <td><el-input v-model="r.name" size="small" :aria-label="`Name of network ${i + 1}`" /></td>
          <td><el-input v-model="r.ranges" size="small" :aria-label="`Ranges of ${r.name}`" /></td>
          <td><el-checkbox v-model="r.egress" :aria-label="`${r.name} is a shared exit`" /></td>
          <td><button class="link small" @click="rows.splice(i, 1)">Take away</button></td>
        </tr>
      </tbody>
    </table>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p class="acts-row">
      <el-button size="small" @click="rows.push({ name: '', ranges: '', egress: false })">Add a network</el-button>
      <el-button size="small" type="primary" :loading="busy" @click="save">Save the networks</el-button>
      <label class="small"
        >Places (CSV of range, country, name, lat, lon; or MMDB)
        <input type="file" accept=".csv,.mmdb" @change="places"
      /></label>
      <span v-if="loaded" class="small" role="status">{{ loaded }} is the table of places now.</span>
    </p>
  </section>
</template>
