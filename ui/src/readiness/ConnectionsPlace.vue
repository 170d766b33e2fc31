<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { count, day, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import AreaTabs from './AreaTabs.vue'
import ConnectionForm from './ConnectionForm.vue'
import { connectionWords } from './words'

/** Programs outside that answer with machines, training and tickets, and what each said last. */
const { number, text } = useUrl()
const open = number('connection')
const words = text('words')
const asked = refDebounced(words, 250)
const { data, error } = useQuery({ queryKey: ['connections'], queryFn: () => take(api.GET('/api/connections')) })
const shown = computed(() => data.value?.find((c) => c.id === open.value))
const records = useQuery({
  queryKey: computed(() => ['connections', open.value, asked.value]),
  queryFn: () =>
    take(
      api.GET('/api/connections/{id}/records', {
        params: { path: { id: open.value! }, query: { words: asked.value || undefined } },
      }),
    ),
  enabled: computed(() => !!open.value),
  placeholderData: keepPreviousData,
})
const KNOWN = ['key', 'title', 'person', 'sort', 'state', 'opened', 'due', 'done']
/** What else a program says of a record, such as patched 1 Jun 2026. */
const more = (facts: string) =>
  Object.entries(JSON.parse(facts || '{}') as Record<string, unknown>)
    .filter(([name, value]) => !KNOWN.includes(name) && value !== null)
    .map(([name, value]) => {
      const words = name.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)
      const text = typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)
      return `${words} ${/^\d{4}-\d\d-\d\d$/.test(text) ? day(text) : text}`
    })
    .join(' · ')
const doing = ref<'' | 'new' | 'change' | 'remove'>('')
const { act, busy, problem } = useAct(['readiness'])
const read = () =>
  act(() => take(api.POST('/api/connections/{id}/reading', { params: { path: { id: shown.value!.id } } })))
async function remove() {
  if (await act(() => take(api.DELETE('/api/connections/{id}', { params: { path: { id: shown.value!.id } } })))) {
    doing.value = ''
    open.value = null
  }
}
</script>

<template>
  <Workbench name="connections" :subject="!!shown" :list-width="380">
    <template #list>
      <div class="page">
        <header>
          <h1>Areas</h1>
          <el-button v-if="may('manageReadiness')" size="small" type="primary" class="right" @click="doing = 'new'"
            >Connect a program</el-button
          >
          <AreaTabs class="tabs" />
        </header>
        <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
        <ConnectionForm v-if="doing === 'new'" @kept="doing = ''" @left="doing = ''" />
        <p v-if="data?.length === 0 && doing !== 'new'" class="quiet">
          Nothing is connected. A program answers signed questions over HTTP with its machines, courses or tickets;
          tests of controls look at them.
        </p>
        <button
          v-for="c in data ?? []"
          :key="c.id"
          class="panel listed"
          :aria-current="c.id === open"
          @click="((open = c.id), (doing = ''))"
        >
          <strong>{{ c.name }}</strong>
          <span class="small quiet">{{ connectionWords[c.kind] }} · {{ plural(c.records, 'record') }}</span>
          <span class="small" :class="c.failure ? 'lacking' : 'quiet'">{{
            c.failure ? `▲ ${c.failure}` : c.lastAt ? `read ${moment(c.lastAt)}` : 'never read'
          }}</span>
        </button>
      </div>
    </template>
    <template #subject
      ><article v-if="shown" :key="shown.id" class="pane">
        <header>
          <h1>{{ shown.name }}</h1>
          <span v-if="may('manageReadiness')" class="right"
            ><el-button size="small" type="primary" :loading="busy" @click="read">Read it now</el-button>
            <el-button size="small" @click="doing = 'change'">Change</el-button>
            <el-button size="small" @click="doing = 'remove'">Disconnect</el-button></span
          >
        </header>
        <p class="small quiet">
          <span class="code">{{ shown.address }}</span><template v-if="shown.hash">
            · last answer SHA-256 <span class="code">{{ shown.hash.slice(0, 16) }}…</span></template
          >
        </p>
        <p v-if="problem ?? records.error.value" class="problem" role="alert">
          {{ (problem ?? records.error.value)!.message }}
        </p>
        <ConnectionForm v-if="doing === 'change'" :connection="shown" @kept="doing = ''" @left="doing = ''" />
        <p v-if="doing === 'remove'" class="panel block">
          Its {{ plural(shown.records, 'record') }} go, and tests that look at them find nothing. Runs of the past stay.
          <el-button size="small" type="danger" :loading="busy" @click="remove">Disconnect it</el-button>
          <button class="link" @click="doing = ''">Leave it</button>
        </p>
        <p class="row">
          <el-input
            v-model="words"
            size="small"
            class="find"
            placeholder="Name, person or key"
            aria-label="Find"
            clearable
          />
          <span class="small quiet">{{ count(records.data.value?.total ?? 0) }} found</span>
        </p>
        <table v-if="records.data.value?.records.length" class="sheet">
          <thead>
            <tr>
              <th>Record</th>
              <th>Sort</th>
              <th>State</th>
              <th>Person</th>
              <th v-if="shown.kind !== 'hosts'">Day</th>
              <th>Besides</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in records.data.value.records" :key="r.key">
              <td>
                {{ r.title }} <span v-if="r.key !== r.title" class="small quiet">{{ r.key }}</span>
              </td>
              <td>{{ r.sort }}</td>
              <td>{{ r.state }}</td>
              <td class="small">{{ r.person || '–' }}</td>
              <td v-if="shown.kind !== 'hosts'" :class="{ lacking: r.late }">
                {{ r.done ? `done ${day(r.done)}` : r.due ? `${r.late ? '▲ ' : ''}due ${day(r.due)}` : '–' }}
              </td>
              <td class="small quiet">{{ more(r.facts) || '–' }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="(records.data.value?.total ?? 0) > (records.data.value?.records.length ?? 0)" class="small quiet">
          The first {{ records.data.value!.records.length }}; what is open and nearest comes first.
        </p>
      </article></template
    >
  </Workbench>
</template>

<style scoped>
.page,
.pane {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}
.page {
  padding: 14px 16px;
}
header,
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 12px;
}
h1 {
  font-size: 20px;
}
.tabs {
  flex-basis: 100%;
}
.right {
  margin-left: auto;
}
.find {
  width: 240px;
}
</style>
