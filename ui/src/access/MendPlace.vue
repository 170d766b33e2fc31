<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import ShowMore from '@/shared/ShowMore.vue'
import ChangeConsequences from './ChangeConsequences.vue'
import ListNews from './ListNews.vue'
import OwnersPanel from './OwnersPanel.vue'

/** What should not be as it is, in lists; each line with what mends it. */
const { text } = useUrl()
const chosen = text('list')
const lists = useQuery({ queryKey: ['mend'], queryFn: () => take(api.GET('/api/access/lists')) })
const name = computed(() => chosen.value || lists.data.value?.find((l) => l.lines)?.name || '')
const list = useQuery({
  queryKey: computed(() => ['mend', name.value]),
  queryFn: () => take(api.GET('/api/access/lists/{name}', { params: { path: { name: name.value } } })),
  enabled: computed(() => !!name.value),
})
const filter = ref('')
const rows = computed(() =>
  (list.data.value?.lines ?? []).filter((l) => l.words.toLowerCase().includes(filter.value.toLowerCase())),
)
const shown = ref(80)
const mending = ref<string | null>(null)
const keyOf = (l: Schemas['MendingLineView']) => `${l.who}|${l.what}|${l.words}`
const { act, busy, problem } = useAct(['directory'])
async function mend(line: Schemas['MendingLineView'], reason: string) {
  if (await act(() => take(api.POST('/api/access/changes', { body: { ...line.fix!, reason } })))) mending.value = null
}
</script>

<template>
  <main class="page">
    <nav class="lists" aria-label="Lists">
      <h1>To mend</h1>
      <button
        v-for="l in lists.data.value ?? []"
        :key="l.name"
        class="entry"
        :aria-current="l.name === name"
        @click="((chosen = l.name), (shown = 80), (mending = null))"
      >
        <span>{{ l.title }}</span>
        <span class="num" :class="{ lacking: l.lines }">{{ count(l.lines) }}</span>
      </button>
    </nav>
    <section v-if="list.data.value" :aria-label="list.data.value.title">
      <h2>{{ list.data.value.title }}</h2>
      <p class="quiet">{{ list.data.value.says }}</p>
      <ListNews :list="list.data.value.name" />
      <OwnersPanel v-if="list.data.value.name === 'ownerless'" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p v-if="list.data.value.lines.length === 0" class="settled">✓ Nothing to mend here.</p>
      <template v-else>
        <div class="tools">
          <el-input v-model="filter" size="small" placeholder="Filter" aria-label="Filter the lines" clearable />
          <span class="small quiet">{{ plural(rows.length, 'line') }}</span>
          <a class="small" :href="`/api/access/lists/${list.data.value.name}/list.csv`" download>CSV</a>
        </div>
        <table class="sheet">
          <tbody>
            <template v-for="l in rows.slice(0, shown)" :key="keyOf(l)">
              <tr>
                <td>{{ l.words }}</td>
                <td class="small links">
                  <RouterLink v-if="l.who.includes('@')" :to="{ path: '/access', query: { person: l.who } }"
                    >person</RouterLink
                  >
                  {{ ' ' }}
                  <RouterLink v-if="l.what?.includes('/')" :to="{ path: '/access', query: { resource: l.what } }"
                    >place</RouterLink
                  >
                  <RouterLink
                    v-else-if="l.who && !l.who.includes('@') && l.who !== 'anyone' && l.who !== 'organisation'"
                    :to="{ path: '/access', query: { group: l.who } }"
                    >group</RouterLink
                  >
                </td>
                <td class="do">
                  <button
                    v-if="l.fix && may('manageAccess')"
                    class="link"
                    :aria-expanded="mending === keyOf(l)"
                    @click="mending = mending === keyOf(l) ? null : keyOf(l)"
                  >
                    {{ mending === keyOf(l) ? 'Leave it' : 'Mend it' }}
                  </button>
                  <span v-else-if="!l.fix" class="small quiet">somebody must decide</span>
                </td>
              </tr>
              <tr v-if="mending === keyOf(l) && l.fix">
                <td colspan="3">
                  <ChangeConsequences :change="l.fix" :busy="busy" @carry="(reason) => mend(l, reason)" />
                </td>
              </tr>
            </template>
          </tbody>
        </table>
        <ShowMore v-model="shown" :of="rows.length" />
      </template>
    </section>
  </main>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  height: 100%;
  overflow: hidden;
}
.lists {
  border-right: 1px solid var(--line);
  padding: 16px 0;
  overflow: auto;
}
h1 {
  font-size: 20px;
  padding: 0 16px 8px;
}
h2 {
  font-size: 17px;
}
section {
  padding: 16px 20px 32px;
  overflow: auto;
  display: grid;
  gap: 8px;
  align-content: start;
}
.entry {
  display: flex;
  width: 100%;
  justify-content: space-between;
  padding: 7px 16px;
  background: none;
  border: 0;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}
.entry:hover,
.entry[aria-current='true'] {
  background: var(--sea-wash);
}
p {
  margin: 0;
}
.tools {
  display: flex;
  gap: 12px;
  align-items: center;
}
.tools .el-input {
  width: 240px;
}
.settled {
  color: var(--sea);
}
.links {
  white-space: nowrap;
}
.do {
  text-align: right;
  white-space: nowrap;
}
</style>
