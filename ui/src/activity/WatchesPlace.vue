<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, take } from '@/shared/api/client'
import { count, day } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import WatchPane from './WatchPane.vue'
import { useWatchKinds } from './watchKinds'
import { ruleSentence, type Settings } from './watchWords'

const kinds = useWatchKinds()
const { text, number, put } = useUrl()
const open = number('watch')
const { data, error } = useQuery({ queryKey: ['watches'], queryFn: () => take(api.GET('/api/watches')) })
const choosing = ref(false)
const templates = useQuery({
  queryKey: ['watches', 'templates'],
  queryFn: () => take(api.GET('/api/watches/templates')),
  enabled: choosing,
})
const draft = ref<Settings | null>(null)
const shown = computed(() => data.value?.find((w) => w.id === open.value))
const scratch: Settings = {
  name: 'New watch',
  rule: { kind: 'count', where: '', per: 'actor', of: 'events', threshold: 10, within: 'PT1H' },
  severity: 'medium',
  recipients: [],
  words: '',
  dailyCap: 5,
}
function begin(settings: Settings) {
  draft.value = { ...settings, rule: { ...settings.rule } }
  choosing.value = false
  void put({ watch: null })
}
// From a search: its query is the watch's.
watch(
  text('from'),
  (query) => {
    if (!query) return
    begin({ ...scratch, name: `Watch of ${query}`.slice(0, 120), rule: { ...scratch.rule, where: query } })
    void put({ from: null })
  },
  { immediate: true },
)
function choose(id: number) {
  draft.value = null
  open.value = id
}
watch([() => data.value, draft], ([list, d]) => {
  const made = d && list?.find((w) => w.settings.name === d.name)
  if (made) choose(made.id)
})
</script>

<template>
  <Workbench name="watches" :subject="!!shown || !!draft" :list-width="520">
    <template #list>
      <div class="page">
        <header>
          <h1>Watches</h1>
          <span class="quiet">{{ data?.filter((w) => w.on).length ?? 0 }} of {{ data?.length ?? 0 }} on</span>
          <el-button v-if="may('manageWatches')" type="primary" class="right" @click="choosing = !choosing"
            >Make a watch</el-button
          >
        </header>
        <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
        <section v-if="choosing" class="panel block" aria-label="Templates">
          <h2>Begin with</h2>
          <ul>
            <li><button class="link" @click="begin(scratch)">an empty sentence</button></li>
            <li v-for="t in templates.data.value ?? []" :key="t.name">
              <button class="link" @click="begin(t)">{{ t.name }}</button>
              <span class="small quiet"> {{ ruleSentence(kinds, t.rule) }}</span>
            </li>
          </ul>
        </section>
        <section v-if="data?.length === 0 && !choosing" class="panel block">
          <h2>Nothing is watched yet</h2>
          <p>
            A watch is one sentence: it raises an alert when events fit it. Begin with a template, or open a
            <RouterLink to="/activity/search">search</RouterLink> and choose <em>Watch this</em>.
          </p>
        </section>
        <table v-if="data?.length" class="sheet">
          <thead>
            <tr>
              <th>Watch</th>
              <th>State</th>
              <th class="num">90 days</th>
              <th class="num">7 days</th>
              <th v-if="!open && !draft">Last alert</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="w in data" :key="w.id" :class="{ open: w.id === open }">
              <td>
                <button class="link" @click="choose(w.id)">{{ w.settings.name }}</button>
                <div class="small quiet rule">{{ ruleSentence(kinds, w.settings.rule) }}</div>
              </td>
              <td :class="w.on ? 'on' : 'quiet'">{{ w.on ? '● on' : '○ off' }}</td>
              <td class="num">{{ count(w.quarter) }}</td>
              <td class="num">{{ count(w.week) }}</td>
              <td v-if="!open && !draft">{{ w.lastAlertAt ? day(w.lastAlertAt.slice(0, 10)) : '–' }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <template #subject>
      <WatchPane
        v-if="draft"
        :key="draft.name"
        :draft="draft"
        @made="(name) => draft && (draft = { ...draft, name })"
      />
      <WatchPane v-else-if="shown" :key="shown.id" :view="shown" @close="open = null" />
    </template>
  </Workbench>
</template>

<style scoped>
.page {
  padding: 14px 16px;
  display: grid;
  gap: 12px;
}
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 4px;
}
.rule {
  overflow-wrap: anywhere;
}
.on {
  color: var(--sea);
  white-space: nowrap;
}
td.quiet {
  white-space: nowrap;
}
</style>
