<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import ChangeConsequences from './ChangeConsequences.vue'

/** A change of the directory, thought of here and made only after its consequences were seen. */
const { answer, entries } = defineProps<{
  answer: Schemas['ReachAnswer']
  entries: readonly Schemas['DirectoryEntry'][]
}>()
type Change = Schemas['ChangeRequest']
const about = computed(() => answer.about)
const isPerson = computed(() => ['person', 'guest', 'service'].includes(about.value.kind))
const verb = ref<'' | 'add' | 'remove' | 'owner' | 'least'>('')
const other = ref('')
const role = ref('reader')
const shown = ref(8)
// Of another subject, not of the same one read anew: what somebody is thinking of stays.
watch(
  () => about.value.id,
  () => ((verb.value = ''), (other.value = '')),
)
const people = computed(() => entries.filter((e) => ['person', 'guest', 'service'].includes(e.kind)))
const groups = computed(() => entries.filter((e) => e.kind === 'group'))
const choices = computed(() => {
  if (verb.value === 'owner') return people.value
  if (isPerson.value) return verb.value === 'remove' ? answer.groups : groups.value
  if (about.value.kind === 'group')
    return verb.value === 'remove'
      ? answer.members
      : [...people.value, ...groups.value].filter((e) => e.id !== about.value.id)
  return [...groups.value, ...people.value]
})
const change = computed<Change | null>(() => {
  if (!verb.value || !other.value || verb.value === 'least') return null
  if (verb.value === 'owner')
    return { verb: 'setOwner', who: other.value, what: about.value.id, role: null, reason: '' }
  if (isPerson.value || about.value.kind === 'group') {
    const [who, what] = isPerson.value ? [about.value.id, other.value] : [other.value, about.value.id]
    return { verb: verb.value === 'add' ? 'addMember' : 'removeMember', who, what, role: null, reason: '' }
  }
  return {
    verb: verb.value === 'add' ? 'addGrant' : 'removeGrant',
    who: other.value,
    what: about.value.id,
    role: role.value,
    reason: '',
  }
})
const least = useQuery({
  queryKey: computed(() => ['reach', 'least', about.value.id, role.value]),
  queryFn: () =>
    take(api.GET('/api/access/least', { params: { query: { resource: about.value.id, role: role.value } } })),
  enabled: computed(() => verb.value === 'least'),
  placeholderData: keepPreviousData,
})
const { act, busy, problem } = useAct(['directory'])
async function carry(reason: string) {
  if (await act(() => take(api.POST('/api/access/changes', { body: { ...change.value!, reason } })))) {
    verb.value = ''
    other.value = ''
  }
}
const verbs = computed(() =>
  isPerson.value
    ? [
        ['add', 'Before you add to a group'],
        ['remove', 'Before you remove from a group'],
      ]
    : about.value.kind === 'group'
      ? [
          ['add', 'Before you add somebody'],
          ['remove', 'Before you remove somebody'],
          ['owner', 'Set the owner'],
        ]
      : [
          ['least', 'The least that is enough'],
          ['add', 'Before you grant'],
          ['remove', 'Before you take a grant away'],
          ['owner', 'Set the owner'],
        ],
)
</script>

<template>
  <section v-if="may('manageAccess') || may('readAccess')" aria-label="Change">
    <div class="row">
      <el-radio-group v-model="verb" size="small" aria-label="What you think of"
        ><el-radio-button v-for="[v, w] in verbs" :key="v" :value="v">{{ w }}</el-radio-button></el-radio-group
      >
      <template v-if="verb">
        <el-input
          v-if="verb === 'least' || (!isPerson && about.kind !== 'group' && verb !== 'owner')"
          v-model="role"
          size="small"
          class="role"
          aria-label="Role"
        />
        <el-select
          v-if="verb !== 'least'"
          v-model="other"
          filterable
          size="small"
          placeholder="whom or which"
          aria-label="Whom or which"
          class="other"
          ><el-option v-for="c in choices" :key="c.id" :value="c.id" :label="c.name"
        /></el-select>
        <button class="link" @click="verb = ''">Leave it</button>
      </template>
    </div>
    <table v-if="verb === 'least' && least.data.value" class="sheet">
      <thead>
        <tr>
          <th>Group that gives “{{ role }}”</th>
          <th class="num">sensitive places besides</th>
          <th class="num">places besides</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in least.data.value.slice(0, shown)" :key="g.group">
          <td>
            <RouterLink :to="{ path: '/access', query: { group: g.group } }">{{ g.name }}</RouterLink>
          </td>
          <td class="num">{{ g.sensitive }}</td>
          <td class="num">{{ g.others }}</td>
        </tr>
        <tr v-if="least.data.value.length === 0">
          <td colspan="3">No group gives this role here.</td>
        </tr>
      </tbody>
    </table>
    <ShowMore v-if="verb === 'least'" v-model="shown" :of="least.data.value?.length ?? 0" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <ChangeConsequences v-if="change" :change="change" :busy="busy" @carry="carry" />
  </section>
</template>

<style scoped>
.row {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.other {
  width: 260px;
}
.role {
  width: 110px;
}
</style>
