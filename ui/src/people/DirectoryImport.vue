<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'

/** Files of a directory: chosen, their consequences read, and only then taken in. */
const emit = defineEmits<{ close: [] }>()
type Import = Schemas['DirectoryImport']
type Table = 'people' | 'groups' | 'places' | 'grants' | 'links' | 'consents' | 'ldif'
const tables: { key: Table; label: string; columns: string }[] = [
  {
    key: 'people',
    label: 'People',
    columns: 'name, mail · unit, title, manager, leaves, kind, sponsor, suspended, second factor',
  },
  { key: 'groups', label: 'Groups', columns: 'group, member · owner' },
  {
    key: 'places',
    label: 'Places',
    columns: 'place, name · kind, parent, inherits, owner, outsiders, sensitive, region',
  },
  { key: 'grants', label: 'Grants', columns: 'to, place, role' },
  { key: 'links', label: 'Links', columns: 'place, to, role · by, ends' },
  { key: 'consents', label: 'Consents', columns: 'application, by, scopes · name, publisher, used' },
  { key: 'ldif', label: 'LDIF', columns: 'people and groups of an export (RFC 2849), in place of their tables' },
]
const sources = useQuery({ queryKey: ['directory-sources'], queryFn: () => take(api.GET('/api/directory/sources')) })
const takers = computed(() => (sources.data.value ?? []).filter((s) => s.kind === 'files' && !s.ended))
const chosen = ref<Partial<Record<Table, string>>>({})
const source = ref<number | null>(null)
const whole = ref(false)
const would = ref<Schemas['DirectoryConsequences'] | null>(null)
const done = ref<Schemas['DirectoryImported'] | null>(null)
const shown = ref(12)
const { act, busy, problem } = useAct(['directory'])
const body = computed<Import>(() => ({ ...chosen.value, source: source.value, whole: whole.value }))
const any = computed(() => Object.values(chosen.value).some((t) => t !== undefined))
watch(body, () => (would.value = null))

async function read(table: Table, event: Event) {
  const text = await (event.target as HTMLInputElement).files?.[0]?.text()
  chosen.value = { ...chosen.value, [table]: text }
}
const look = () =>
  act(async () => (would.value = await take(api.POST('/api/directory/consequences', { body: body.value }))))
const takeIn = () => act(async () => (done.value = await take(api.POST('/api/directory', { body: body.value }))))
const marks = { appears: '+', changes: '~', disappears: '−' }
const things = { person: 'person', group: 'group', place: 'place', grant: 'grant', application: 'application' }
const label = computed(() => {
  const all = would.value ? would.value.appear + would.value.change + would.value.disappear : 0
  return all === 0 ? 'Nothing is different' : `Take in ${plural(all, 'difference')}`
})
</script>

<template>
  <el-dialog :model-value="true" title="Take in files" width="720" append-to-body @close="emit('close')">
    <p v-if="done" role="status" class="settled">
      ✓ {{ plural(done.added, 'person', 'people') }} added, {{ count(done.changed) }} changed,
      {{ plural(done.groups, 'group') }} and {{ plural(done.others, 'other') }} brought up to date.
    </p>
    <template v-else>
      <div class="files">
        <template v-for="t in tables" :key="t.key">
          <label :for="`d-${t.key}`"
            >{{ t.label }} <span class="quiet small">{{ t.columns }}</span></label
          >
          <input
            :id="`d-${t.key}`"
            type="file"
            :accept="t.key === 'ldif' ? '.ldif,.ldf,text/plain' : '.csv,text/csv'"
            @change="read(t.key, $event)"
          />
        </template>
      </div>
      <p v-if="takers.length > 1" class="row">
        <label for="d-source">Source</label>
        <el-select id="d-source" v-model="source" size="small" aria-label="Source">
          <el-option v-for="s in takers" :key="s.id" :value="s.id" :label="s.name" />
        </el-select>
      </p>
      <el-checkbox v-model="whole"
        >The files are whole: whoever is not in them has left, and what is not in them is gone</el-checkbox
      >
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <section v-if="would" aria-label="Consequences" class="would">
        <p>
          <strong>{{ count(would.appear) }}</strong> would appear, <strong>{{ count(would.change) }}</strong> change,
          <strong :class="{ lacking: would.disappear > 0 }">{{ count(would.disappear) }}</strong> disappear.
        </p>
        <table v-if="would.differences.length" class="sheet">
          <tbody>
            <tr v-for="d in would.differences.slice(0, shown)" :key="d.thing + d.id">
              <td class="mark" :title="d.how">{{ marks[d.how] }}</td>
              <td>
                {{ d.name }} <span class="quiet small">{{ things[d.thing] }}</span>
              </td>
              <td class="small">{{ d.says.join(' · ') }}</td>
            </tr>
          </tbody>
        </table>
        <ShowMore v-model="shown" :of="would.differences.length" />
        <p v-if="would.left" class="quiet small">{{ count(would.left) }} more are counted and not listed.</p>
        <template v-if="would.passedOver.length">
          <h3>What is passed over</h3>
          <ul>
            <li v-for="p in would.passedOver" :key="p" class="small">{{ p }}</li>
          </ul>
        </template>
        <template v-if="would.touches.length">
          <h3>What hangs on them</h3>
          <ul>
            <li v-for="t in would.touches" :key="t.id + t.what">
              <RouterLink :to="t.link">{{ t.what }}</RouterLink>
            </li>
          </ul>
        </template>
      </section>
    </template>
    <template #footer>
      <el-button @click="emit('close')">{{ done ? 'Close' : 'Cancel' }}</el-button>
      <template v-if="!done">
        <el-button v-if="!would" type="primary" :disabled="!any" :loading="busy" @click="look"
          >Show what would change</el-button
        >
        <el-button v-else type="primary" :loading="busy" :disabled="label === 'Nothing is different'" @click="takeIn">{{
          label
        }}</el-button>
      </template>
    </template>
  </el-dialog>
</template>

<style scoped>
.files {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 6px 16px;
  align-items: center;
  margin-bottom: 12px;
}
.files label span {
  display: block;
}
.would {
  max-height: 320px;
  overflow: auto;
  border-top: 1px solid var(--line);
  margin-top: 12px;
}
.mark {
  width: 20px;
  font-weight: 600;
}
h3 {
  font-size: 14px;
  margin: 10px 0 4px;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
.settled {
  color: var(--sea);
}
</style>
