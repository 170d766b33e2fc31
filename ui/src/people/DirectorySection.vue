<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { today } from '@/shared/session'
import { api, take } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'

/** The organisation's own directory: who there is, whether or not they can sign in; for custodians and for groups. */
const { number } = useUrl()
const source = number('source')
const MOST = 500
const words = ref('')
const asked = refDebounced(words, 250)
const people = useQuery({
  queryKey: computed(() => ['directory', asked.value, source.value]),
  queryFn: () =>
    take(
      api.GET('/api/directory/people', {
        params: { query: { words: asked.value || undefined, source: source.value ?? undefined } },
      }),
    ),
  placeholderData: keepPreviousData,
})
const groups = useQuery({ queryKey: ['directory-groups'], queryFn: () => take(api.GET('/api/directory/groups')) })
const sources = useQuery({ queryKey: ['directory-sources'], queryFn: () => take(api.GET('/api/directory/sources')) })
const of = computed(() => (sources.data.value ?? []).filter((s) => !source.value || s.id === source.value))
const own = computed(() => (groups.data.value ?? []).filter((g) => !source.value || g.sourceId === source.value))
const FEW = 12
const whole = ref(false)
const shown = computed(() =>
  whole.value || asked.value ? (people.data.value ?? []) : (people.data.value ?? []).slice(0, FEW),
)
</script>

<template>
  <header>
    <h2>People and groups</h2>
    <span class="quiet small"
      >{{
        plural(
          of.reduce((n, s) => n + s.people, 0),
          'person',
          'people',
        )
      }}, {{ plural(own.length, 'group') }}
      <template v-if="source"
        >of {{ of[0]?.name }} · <button class="link" @click="source = null">all sources</button></template
      ></span
    >
  </header>
  <section class="panel">
    <p class="find">
      <label class="sr" for="d-words">Find in the directory</label
      ><el-input id="d-words" v-model="words" placeholder="Name, address or unit" clearable size="small" />
    </p>
    <table>
      <thead>
        <tr>
          <th>Name</th>
          <th>Unit</th>
          <th>Title</th>
          <th>Groups</th>
          <th>State</th>
          <th>Holds you know of</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in shown" :key="p.id">
          <td>
            <strong>{{ p.name }}</strong><br /><span class="quiet small">{{ p.mail }}</span>
          </td>
          <td>
            {{ p.unit
            }}<span v-if="p.kind !== 'person'" class="quiet small">{{ p.unit ? ' · ' : '' }}{{ p.kind }}</span>
          </td>
          <td>{{ p.title }}</td>
          <td>{{ p.groups.join(', ') || '–' }}</td>
          <td :class="{ quiet: !p.leavesOn && !p.suspended }">
            <span v-if="p.suspended" class="lacking">suspended </span
            >{{ p.leavesOn ? `${p.leavesOn < today ? 'left' : 'leaves'} ${day(p.leavesOn)}` : p.suspended ? '' : '–' }}
          </td>
          <td>
            <template v-for="(h, i) in p.holds" :key="h.matterId"
              >{{ i ? ', ' : ''
              }}<RouterLink :to="`/matters/${h.matterId}?tab=custodians`">{{ h.matter }}</RouterLink> ({{
                h.ordersInForce
              }})</template
            ><span v-if="p.holds.length === 0" class="quiet">–</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!asked && !whole && (people.data.value?.length ?? 0) > FEW" class="find">
      <button class="link" @click="whole = true">{{ count(people.data.value!.length - FEW) }} more</button>
    </p>
  </section>
  <p v-if="people.data.value?.length === MOST" class="quiet small">
    The first {{ MOST }} by name; a name, an address or a unit finds the others.
  </p>
  <details class="small">
    <summary>Groups</summary>
    <p v-for="g in own" :key="g.id">
      <strong>{{ g.name }}</strong>: {{ g.members.join(', ') }}
    </p>
  </details>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
h2 {
  font-size: 18px;
}
.right {
  margin-left: auto;
}
.find {
  padding: 10px 14px;
  margin: 0;
  max-width: 320px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  text-align: left;
  padding: 6px 14px;
  border-bottom: 1px solid var(--line);
  font-size: 13.5px;
  vertical-align: top;
}
th {
  font-size: 12px;
  color: var(--ink-2);
}
details p {
  margin: 4px 0;
}
summary {
  cursor: pointer;
  color: var(--ink-2);
}
</style>
