<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { roleWords, type Role } from '@/shared/words'
import { keepTyped } from '@/shared/typed'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { person } from '@/shared/session'
import ApiKeys from './ApiKeys.vue'
import HandOverDialog from './HandOverDialog.vue'
import FactorRolesSection from './FactorRolesSection.vue'

type Person = Schemas['PersonView']
const people = useQuery({ queryKey: ['people'], queryFn: () => take(api.GET('/api/people')) })
const units = useQuery({ queryKey: ['units'], queryFn: () => take(api.GET('/api/units')) })
const roles = Object.keys(roleWords) as Role[]
const editing = ref<Person | 'new' | null>(null)
const form = reactive({
  name: '',
  mail: '',
  active: true,
  remits: [] as { role: Role; unitId: number }[],
})
const { act, busy, problem } = useAct(['people'])
const unitForm = reactive({ name: '', parentId: 0, shown: false })
const unitSaved = keepTyped('unit.new', unitForm, ['shown'])

function edit(who: Person | 'new') {
  problem.value = null
  editing.value = who
  Object.assign(
    form,
    who === 'new'
      ? {
          name: '',
          mail: '',
          active: true,
          remits: [{ role: 'staff', unitId: units.data.value?.[0]?.id ?? 0 }],
        }
      : {
          name: who.name,
          mail: who.mail,
          active: who.active,
          remits: who.remits.map((r) => ({ role: r.role, unitId: r.unitId })),
        },
  )
}
async function save() {
  const who = editing.value
  const done = await act(async () => {
    if (who === 'new')
      invited(await take(api.POST('/api/people', { body: { name: form.name, mail: form.mail, remits: form.remits } })))
    else
      await take(
        api.PUT('/api/people/{id}', {
          params: { path: { id: (who as Person).id } },
          ...ifMatch((who as Person).revision),
          body: { name: form.name, active: form.active, remits: form.remits },
        }),
      )
  })
  if (done) editing.value = null
}
/** The link to hand over, where the product sends no mail. */
const handOver = ref<{ name: string; link: string } | null>(null)
function invited({ person, link }: Schemas['InvitedPerson']) {
  if (link) handOver.value = { name: person.name, link: `${location.origin}${link}` }
  else ElMessage({ message: `An invitation is on its way to ${person.mail}.`, type: 'success' })
}
/** Ends their sessions, keys and password, and sends the link by which they choose another. */
const invite = async (who: Person) =>
  (await act(async () =>
    invited(await take(api.POST('/api/people/{id}/invitation', { params: { path: { id: who.id } } }))),
  )) && (editing.value = null)
/** They sign in again with the password alone, and set up another phone. What else is changed here waits for *Save*. */
const turnOff = async (who: Person) =>
  (await act(() => take(api.DELETE('/api/people/{id}/one-time-codes', { params: { path: { id: who.id } } })))) &&
  (editing.value = { ...who, oneTimeCodes: false })
const addUnit = async () =>
  (await act(() =>
    take(
      api.POST('/api/units', {
        body: { name: unitForm.name, parentId: unitForm.parentId || units.data.value![0]!.id },
      }),
    ),
  )) && (unitSaved(), (unitForm.shown = false))
</script>

<template>
  <main class="page">
    <header>
      <h1>People</h1>
      <span class="quiet"
        >{{ plural(people.data.value?.length ?? 0, 'person', 'people') }}, each with a role over a part of the
        organisation</span
      ><el-button class="right" type="primary" @click="edit('new')">Add a person</el-button>
    </header>
    <p v-if="people.error.value" class="problem">{{ people.error.value.message }}</p>
    <section class="panel block">
      <table class="sheet">
        <thead>
          <tr>
            <th>Name</th>
            <th>Mail</th>
            <th>Remits</th>
            <th>State</th>
            <th><span class="sr">Change</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in people.data.value ?? []" :key="p.id">
            <td>
              <strong>{{ p.name }}</strong>
            </td>
            <td>{{ p.mail }}</td>
            <td>{{ p.remits.map((r) => `${roleWords[r.role]}, ${r.unit}`).join(' · ') || 'none' }}</td>
            <td>
              {{ !p.active ? 'turned off' : p.invited ? 'invited' : 'active'
              }}{{ p.oneTimeCodes ? ', one-time codes' : '' }}
            </td>
            <td class="num"><button class="link" :aria-label="`Change ${p.name}`" @click="edit(p)">Change</button></td>
          </tr>
        </tbody>
      </table>
    </section>
    <header>
      <h2>Units</h2>
      <el-button class="right" @click="((unitForm.shown = true), (problem = null))">Add a unit</el-button>
    </header>
    <section class="panel units">
      <p v-for="u in units.data.value ?? []" :key="u.id" :style="{ paddingLeft: `${u.depth * 22}px` }">{{ u.name }}</p>
    </section>
    <FactorRolesSection />
    <ApiKeys />

    <el-dialog
      :model-value="editing !== null"
      :title="editing === 'new' ? 'Add a person' : `Change ${form.name}`"
      width="560"
      append-to-body
      @update:model-value="editing = null"
    >
      <form class="fields" @submit.prevent="save">
        <label class="label" for="p-name">Name</label><el-input id="p-name" v-model="form.name" />
        <label class="label" for="p-mail">Mail address</label
        ><el-input id="p-mail" v-model="form.mail" :disabled="editing !== 'new'" />
        <p v-if="editing === 'new'" class="small quiet">
          They get a link by mail and choose their password. Nobody else knows it.
        </p>
        <p v-else-if="editing && editing.id !== person?.id" class="small">
          <button type="button" class="link" :disabled="busy" @click="invite(editing)">
            {{ editing.invited ? 'Send another invitation' : 'Reset password: ends their sessions and keys' }}
          </button>
        </p>
        <label v-if="editing !== 'new'" class="check"
          ><input v-model="form.active" type="checkbox" /> may sign in</label
        >
        <p v-if="editing !== 'new' && editing?.oneTimeCodes" class="small">
          The sign-in asks for one-time codes.{{ ' ' }}
          <button type="button" class="link" :disabled="busy" @click="turnOff(editing)">
            Turn them off: phone and recovery codes are lost
          </button>
        </p>
        <span class="label">Remits</span>
        <div v-for="(r, i) in form.remits" :key="i" class="row">
          <select v-model="r.role" class="box" :aria-label="`Role ${i + 1}`">
            <option v-for="role in roles" :key="role" :value="role">{{ roleWords[role] }}</option>
          </select>
          <select v-model="r.unitId" class="box" :aria-label="`Unit ${i + 1}`">
            <option v-for="u in units.data.value ?? []" :key="u.id" :value="u.id">{{ u.name }}</option>
          </select>
          <el-button :aria-label="`Remove remit ${i + 1}`" @click="form.remits.splice(i, 1)">Remove</el-button>
        </div>
        <p>
          <el-button size="small" @click="form.remits.push({ role: 'staff', unitId: units.data.value?.[0]?.id ?? 0 })"
            >Add a remit</el-button
          >
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="editing = null">Cancel</el-button
        ><el-button type="primary" :loading="busy" @click="save">Save</el-button></template
      >
    </el-dialog>
    <HandOverDialog v-if="handOver" v-bind="handOver" @close="handOver = null" />
    <el-dialog v-model="unitForm.shown" title="Add a unit" width="420" append-to-body>
      <div class="fields">
        <label class="label" for="u-name">Name</label><el-input id="u-name" v-model="unitForm.name" />
        <label class="label" for="u-parent">Beneath</label
        ><select id="u-parent" v-model="unitForm.parentId" class="box">
          <option v-for="u in units.data.value ?? []" :key="u.id" :value="u.id">{{ u.name }}</option>
        </select>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </div>
      <template #footer><el-button type="primary" :loading="busy" @click="addUnit">Add</el-button></template>
    </el-dialog>
  </main>
</template>

<style scoped>
.page {
  max-width: 1040px;
  margin: 0 auto;
  padding: 24px 20px 40px;
  display: grid;
  gap: 12px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  margin-top: 6px;
}
.right {
  margin-left: auto;
}
h1 {
  font-size: 25px;
}
h2 {
  font-size: 18px;
}
td strong {
  white-space: nowrap;
}
.units {
  padding: 10px 16px;
}
.units p {
  margin: 3px 0;
}
.row {
  display: flex;
  gap: 8px;
}
.check {
  display: flex;
  gap: 8px;
}
.box {
  height: 32px;
  flex: 1;
  min-width: 0;
}
</style>
