<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { may, today } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'

/** The organisation's own directory: who there is, whether or not they can sign in; for custodians and for groups. */
const words = ref('')
const asked = refDebounced(words, 250)
const people = useQuery({
  queryKey: computed(() => ['directory', asked.value]),
  queryFn: () => take(api.GET('/api/directory/people', { params: { query: { words: asked.value || undefined } } })),
  placeholderData: keepPreviousData,
})
const groups = useQuery({ queryKey: ['directory-groups'], queryFn: () => take(api.GET('/api/directory/groups')) })
const { act, busy, problem } = useAct(['directory'])
const importing = ref(false)
const files = ref<{ people: string | null; groups: string | null }>({ people: null, groups: null })
const done = ref<Schemas['DirectoryImported'] | null>(null)
const FEW = 12
const whole = ref(false)
const shown = computed(() =>
  whole.value || asked.value ? (people.data.value ?? []) : (people.data.value ?? []).slice(0, FEW),
)
async function read(what: 'people' | 'groups', event: Event) {
  files.value[what] = (await (event.target as HTMLInputElement).files?.[0]?.text()) ?? null
}
const take_in = () => act(async () => (done.value = await take(api.POST('/api/directory', { body: files.value }))))
</script>

<template>
  <header>
    <h2>Directory</h2>
    <span class="quiet small"
      >{{ plural(people.data.value?.length ?? 0, 'person', 'people') }},
      {{ plural(groups.data.value?.length ?? 0, 'group') }}; custodians and groups are taken from it</span
    ><el-button v-if="may('managePeople')" class="right" @click="((importing = true), (done = null), (problem = null))"
      >Take in a file</el-button
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
          <th>Leaves</th>
          <th>Holds you know of</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in shown" :key="p.id">
          <td>
            <strong>{{ p.name }}</strong><br /><span class="quiet small">{{ p.mail }}</span>
          </td>
          <td>{{ p.unit }}</td>
          <td>{{ p.title }}</td>
          <td>{{ p.groups.join(', ') || '–' }}</td>
          <td :class="{ quiet: !p.leavesOn }">
            {{ p.leavesOn ? `${p.leavesOn < today ? 'left' : 'leaves'} ${day(p.leavesOn)}` : '–' }}
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
  <details class="small">
    <summary>Groups</summary>
    <p v-for="g in groups.data.value ?? []" :key="g.id">
      <strong>{{ g.name }}</strong>: {{ g.members.join(', ') }}
    </p>
  </details>
  <el-dialog v-model="importing" title="Take in the directory" width="520" append-to-body>
    <div class="fields">
      <label class="label" for="d-people"
        >People: CSV with name, mail, unit, title, manager (a mail address), leaves (a date)</label
      ><input id="d-people" type="file" accept=".csv,text/csv" @change="read('people', $event)" />
      <label class="label" for="d-groups">Groups: CSV with group, member (a mail address, or the name of a group)</label
      ><input id="d-groups" type="file" accept=".csv,text/csv" @change="read('groups', $event)" />
      <p class="small quiet">
        All or nothing. People are told apart by their address; nobody is removed, whoever has left says so by a date.
        Groups in the file are replaced.
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p v-if="done" role="status">
        {{ plural(done.added, 'person', 'people') }} added, {{ done.changed }} changed,
        {{ plural(done.groups, 'group') }} read.
      </p>
    </div>
    <template #footer
      ><el-button @click="importing = false">Close</el-button
      ><el-button type="primary" :disabled="!files.people && !files.groups" :loading="busy" @click="take_in"
        >Take in</el-button
      ></template
    >
  </el-dialog>
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
