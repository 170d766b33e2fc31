<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { kindWords, partWords } from './words'
import { keepTyped } from '@/shared/typed'

const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const path = { params: { path: { id: matter.id } } }
const { act, busy, problem, put } = useAct(['matters'])
const lead = computed(() => matter.part === 'lead' && matter.state !== 'deleted')
const candidates = useQuery({
  queryKey: ['matter', matter.id, 'candidates'],
  queryFn: () => take(api.GET('/api/matters/{id}/candidates', path)),
  enabled: lead,
})
const who = ref('')
const part = ref<Schemas['MemberPart']>('reader')
const showMatter = (m: Schemas['MatterView']) => put(['matter', matter.id], m)
const key = (c: Schemas['MemberCandidate']) => (c.personId ? `p${c.personId}` : `g${c.groupId}`)
async function add() {
  const chosen = candidates.data.value!.find((c) => key(c) === who.value)!
  if (
    await act(async () =>
      showMatter(
        await take(
          api.POST('/api/matters/{id}/members', {
            ...path,
            body: { personId: chosen.personId, groupId: chosen.groupId, part: part.value },
          }),
        ),
      ),
    )
  )
    who.value = ''
}
const remove = (m: Schemas['MemberView']) =>
  act(() =>
    take(api.DELETE('/api/matters/{id}/members/{member}', { params: { path: { id: matter.id, member: m.id } } })),
  )
const form = reactive({
  name: matter.name,
  description: matter.description,
  kind: matter.kind,
  delayDays: matter.delayDays,
  controlPrefix: matter.controlPrefix,
  bundleDays: matter.bundleDays,
})
const saved = keepTyped(`matter.${matter.id}.settings`, form)
const changed = computed(() => (Object.keys(form) as (keyof typeof form)[]).some((k) => form[k] !== matter[k]))
const save = async () =>
  (await act(async () =>
    showMatter(await take(api.PUT('/api/matters/{id}', { ...path, ...ifMatch(matter.revision), body: { ...form } }))),
  )) && saved(false)
</script>

<template>
  <section class="members" aria-label="Members">
    <h2>Members</h2>
    <p class="small quiet">
      Only they learn that the matter exists. A reader sees everything, a reviewer also sweeps, drafts orders and makes
      bundles, a lead puts orders in force, notifies custodians and asks for releases.
    </p>
    <table class="sheet">
      <thead>
        <tr>
          <th>Member</th>
          <th>Part</th>
          <th><span class="sr">Acts</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="m in matter.members" :key="m.id">
          <td>
            {{ m.name }}<span v-if="m.isGroup" class="quiet small"> group</span
            ><span v-if="m.isYou" class="quiet small"> you</span>
          </td>
          <td>{{ partWords[m.part] }}</td>
          <td class="num"><button v-if="lead" class="link" :disabled="busy" @click="remove(m)">Remove</button></td>
        </tr>
      </tbody>
    </table>
    <form v-if="lead" class="acts-row" @submit.prevent="add">
      <el-select v-model="who" aria-label="Person or group" filterable placeholder="Person or group" class="wide"
        ><el-option
          v-for="c in candidates.data.value ?? []"
          :key="key(c)"
          :value="key(c)"
          :label="`${c.name} · ${c.note}`"
      /></el-select>
      <el-select v-model="part" aria-label="Part" class="narrow"
        ><el-option v-for="(w, k) in partWords" :key="k" :value="k" :label="w"
      /></el-select>
      <el-button :disabled="!who" :loading="busy" @click="add">Let in</el-button>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <h2>About the matter</h2>
    <form class="fields about" @submit.prevent="save">
      <label class="label" for="a-name">Name</label><el-input id="a-name" v-model="form.name" :disabled="!lead" />
      <label class="label" for="a-kind">Kind</label
      ><el-select id="a-kind" v-model="form.kind" aria-label="Kind" :disabled="!lead"
        ><el-option v-for="(w, k) in kindWords" :key="k" :value="k" :label="w"
      /></el-select>
      <label class="label" for="a-description">What it is about</label
      ><el-input id="a-description" v-model="form.description" type="textarea" :rows="3" :disabled="!lead" />
      <label class="label" for="a-delay">Days between a release and the first disposal it permits</label
      ><el-input-number id="a-delay" v-model="form.delayDays" :min="0" :max="3650" size="small" :disabled="!lead" />
      <label class="label" for="a-prefix">Prefix of control numbers; empty numbers nothing</label
      ><el-input id="a-prefix" v-model="form.controlPrefix" :disabled="!lead" />
      <label class="label" for="a-bundles">Days that bundles stay</label
      ><el-input-number id="a-bundles" v-model="form.bundleDays" :min="1" :max="36500" size="small" :disabled="!lead" />
      <p v-if="lead">
        <el-button type="primary" :disabled="!changed" :loading="busy" @click="save">Save</el-button>
        {{ ' ' }}
        <span class="small quiet">{{ plural(matter.members.length, 'member') }}; opened by {{ matter.openedBy }}</span>
      </p>
    </form>
  </section>
</template>

<style scoped>
.members {
  display: grid;
  gap: 10px;
  max-width: 640px;
}
h2 {
  font-size: 16px;
}
p {
  margin: 0;
}
.wide {
  width: 300px;
}
.narrow {
  width: 130px;
}
.about {
  max-width: 480px;
}
</style>
