<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { may } from '@/shared/session'
import HeatMap from './HeatMap.vue'
import RegisterDocuments from './RegisterDocuments.vue'
import { entryWords, registerWords } from './words'

/** A register: risks with their heat map, suppliers with their documents, incidents. */
type Entry = Schemas['RegisterSettings']
const { kind } = defineProps<{ kind: string }>()
const cell = ref<[number, number] | null>(null)
const { data, error } = useQuery({
  queryKey: computed(() => ['registers', kind]),
  queryFn: () => take(api.GET('/api/registers', { params: { query: { kind } } })),
})
const rows = computed(() =>
  (data.value ?? []).filter(
    (e) =>
      kind !== 'risk' ||
      !cell.value ||
      (e.settings.likelihoodAfter === cell.value[0] && e.settings.impactAfter === cell.value[1]),
  ),
)
const editing = ref<number | 'new' | null>(null)
const controls = useQuery({
  queryKey: ['controls'],
  queryFn: () => take(api.GET('/api/controls')),
  enabled: computed(() => editing.value !== null),
})
const { act, busy, problem } = useAct(['readiness'])
const blank = (): Entry => ({
  kind,
  title: '',
  says: '',
  owner: '',
  due: null,
  doneOn: null,
  likelihood: 3,
  impact: 3,
  likelihoodAfter: 3,
  impactAfter: 3,
  mark: '',
  treatment: '',
  controls: [],
})
const form = reactive<Entry>(blank())
function edit(e?: Schemas['RegisterView']) {
  Object.assign(form, e ? { ...e.settings } : blank())
  editing.value = e?.id ?? 'new'
}
async function save() {
  const found = data.value?.find((e) => e.id === editing.value)
  const body = { ...form, kind, due: form.due || null, doneOn: form.doneOn || null }
  const done = await act(() =>
    found
      ? take(api.PUT('/api/registers/{id}', { params: { path: { id: found.id } }, ...ifMatch(found.revision), body }))
      : take(api.POST('/api/registers', { body })),
  )
  if (done) editing.value = null
}
const remove = (id: number) => act(() => take(api.DELETE('/api/registers/{id}', { params: { path: { id } } })))
const marks: Record<string, string> = {
  risk: 'What is done',
  supplier: 'Tier',
  incident: 'State',
}
</script>

<template>
  <div class="register">
    <p class="row">
      <el-button v-if="may('manageReadiness')" type="primary" size="small" @click="edit()"
        >Add {{ entryWords[kind] }}</el-button
      >
      <span class="small quiet">{{ plural(rows.length, 'entry', 'entries') }}</span>
    </p>
    <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <form v-if="editing" class="panel block grid" @submit.prevent="save">
      <label class="label" for="e-title">Title</label><el-input id="e-title" v-model="form.title" size="small" />
      <label class="label" for="e-says">What it is</label
      ><el-input id="e-says" v-model="form.says" type="textarea" :rows="2" />
      <label class="label" for="e-owner">Owner</label
      ><el-input id="e-owner" v-model="form.owner" size="small" placeholder="mail address" />
      <label class="label" for="e-mark">{{ marks[kind] }}</label><el-input
        id="e-mark"
        v-model="form.mark"
        size="small"
      />
      <label class="label" for="e-due">Next due</label
      ><span
        ><input id="e-due" v-model="form.due" type="date" />
        <label class="small">done on <input v-model="form.doneOn" type="date" /></label
      ></span>
      <template v-if="kind === 'risk'">
        <span class="label">Treatment</span
        ><el-select v-model="form.treatment" size="small" clearable aria-label="Treatment"
          ><el-option v-for="t in ['avoid', 'reduce', 'share', 'accept']" :key="t" :value="t" :label="t"
        /></el-select>
        <span class="label">Likelihood × impact, 1 to 5</span>
        <span class="row"
          ><el-input-number v-model="form.likelihood" size="small" :min="1" :max="5" aria-label="Likelihood before" /> ×
          <el-input-number v-model="form.impact" size="small" :min="1" :max="5" aria-label="Impact before" /> before,
          <el-input-number
            v-model="form.likelihoodAfter"
            size="small"
            :min="1"
            :max="5"
            aria-label="Likelihood after"
          />
          ×
          <el-input-number v-model="form.impactAfter" size="small" :min="1" :max="5" aria-label="Impact after" />
          after</span
        >
      </template>
      <span class="label">Controls that answer it</span
      ><el-select v-model="form.controls" size="small" multiple filterable aria-label="Controls"
        ><el-option
          v-for="c in controls.data.value ?? []"
          :key="c.id"
          :value="c.settings.code"
          :label="`${c.settings.code} ${c.settings.title}`"
      /></el-select>
      <span /><span
        ><el-button type="primary" size="small" native-type="submit" :loading="busy">Save</el-button>
        <button type="button" class="link" @click="editing = null">Cancel</button></span
      >
    </form>
    <HeatMap v-if="kind === 'risk' && data?.length" :risks="data" :cell="cell" @pick="(c) => (cell = c)" />
    <p v-if="data?.length === 0" class="quiet">Nothing stands in this register yet.</p>
    <div v-if="rows.length" class="panel rows">
      <table class="sheet">
        <thead>
          <tr>
            <th>{{ registerWords[kind] }}</th>
            <th v-if="kind === 'risk'" class="num">Before</th>
            <th v-if="kind === 'risk'" class="num">After</th>
            <th>{{ marks[kind] }}</th>
            <th v-if="kind === 'supplier'">Documents</th>
            <th>Due</th>
            <th>Owner</th>
            <th>Controls</th>
            <th><span class="sr">Act</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="e in rows" :key="e.id">
            <td>
              <strong>{{ e.settings.title }}</strong>
              <div class="small quiet">{{ e.settings.says }}</div>
            </td>
            <td v-if="kind === 'risk'" class="num">{{ (e.settings.likelihood ?? 0) * (e.settings.impact ?? 0) }}</td>
            <td v-if="kind === 'risk'" class="num">
              {{ (e.settings.likelihoodAfter ?? 0) * (e.settings.impactAfter ?? 0) }}
            </td>
            <td>
              <template v-if="e.settings.treatment">{{ e.settings.treatment }}: </template>{{ e.settings.mark || '–' }}
            </td>
            <td v-if="kind === 'supplier'"><RegisterDocuments :entry="e" /></td>
            <td :class="{ lacking: e.overdue }">
              {{ e.overdue ? '▲ ' : '' }}{{ e.settings.due ? day(e.settings.due) : '–' }}
            </td>
            <td class="small">{{ e.settings.owner || '–' }}</td>
            <td class="small">
              <span v-for="c in e.settings.controls ?? []" :key="c"
                ><RouterLink :to="`/readiness/controls?code=${c}`">{{ c }}</RouterLink
                >{{ ' ' }}
              </span>
            </td>
            <td class="small do">
              <template v-if="may('manageReadiness')"
                ><button class="link" @click="edit(e)">Edit</button>{{ ' ' }}
                <button class="link" :disabled="busy" @click="remove(e.id)">Remove</button></template
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.rows {
  padding: 4px 16px 10px;
  overflow-x: auto;
}
.register {
  display: grid;
  gap: 12px;
}
.grid {
  display: grid;
  grid-template-columns: 190px minmax(0, 620px);
  gap: 8px 14px;
  align-items: center;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.row .el-input-number {
  width: 96px;
}
.do {
  white-space: nowrap;
}
</style>
