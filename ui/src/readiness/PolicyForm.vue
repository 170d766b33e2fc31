<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'

/** What a policy is called, whom it binds, and how long they have. */
const { policy } = defineProps<{ policy?: Schemas['PolicyView'] }>()
const emit = defineEmits<{ kept: [id: number]; left: [] }>()
const form = reactive<Schemas['PolicySettings']>({
  code: '',
  title: '',
  says: '',
  owner: '',
  units: [],
  groups: [],
  days: 14,
  asksItself: false,
  reviewOn: null,
  ...policy?.settings,
})
const people = useQuery({ queryKey: ['areas', 'people'], queryFn: () => take(api.GET('/api/areas/people')) })
const units = computed(() => (people.data.value?.units ?? []).map((u) => u.unit))
const groups = useQuery({ queryKey: ['directory-groups'], queryFn: () => take(api.GET('/api/directory/groups')) })
const { act, busy, problem } = useAct(['readiness'])
async function save() {
  let id = policy?.id ?? 0
  const body = { ...form, reviewOn: form.reviewOn || null }
  const done = await act(async () => {
    if (policy)
      await take(
        api.PUT('/api/policies/{id}', { params: { path: { id: policy.id } }, ...ifMatch(policy.revision), body }),
      )
    else ({ id } = await take(api.POST('/api/policies', { body })))
  })
  if (done) emit('kept', id)
}
</script>

<template>
  <form class="panel block grid" @submit.prevent="save">
    <template v-if="!policy"
      ><label class="label" for="po-code">Code</label
      ><el-input id="po-code" v-model="form.code" size="small" placeholder="POL-RECORDS"
    /></template>
    <label class="label" for="po-title">Title</label><el-input id="po-title" v-model="form.title" size="small" />
    <label class="label" for="po-says">What it is</label><el-input id="po-says" v-model="form.says" size="small" />
    <label class="label" for="po-owner">Owner</label
    ><el-input id="po-owner" v-model="form.owner" size="small" placeholder="mail address" />
    <span class="label">Binds the people of</span>
    <span class="stack"
      ><el-select v-model="form.units" size="small" multiple filterable aria-label="Units" placeholder="all units"
        ><el-option v-for="u in units" :key="u" :value="u" :label="u" /></el-select
      ><el-select
        v-model="form.groups"
        size="small"
        multiple
        filterable
        aria-label="Groups"
        placeholder="no group besides"
        ><el-option v-for="g in groups.data.value ?? []" :key="g.id" :value="g.key" :label="g.name" /></el-select
    ></span>
    <label class="label" for="po-days">Days to acknowledge</label
    ><el-input-number id="po-days" v-model="form.days" size="small" :min="1" :max="365" />
    <label class="label" for="po-review">Next review</label><input id="po-review" v-model="form.reviewOn" type="date" />
    <span /><el-checkbox v-model="form.asksItself">ask whoever comes into its scope, each morning</el-checkbox>
    <span /><span
      ><el-button type="primary" size="small" native-type="submit" :loading="busy">Keep it</el-button>
      <button type="button" class="link" @click="emit('left')">Leave it</button></span
    >
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: center;
}
.stack {
  display: grid;
  gap: 6px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
