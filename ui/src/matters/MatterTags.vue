<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'
import GroupList from '@/shared/GroupList.vue'

/** The tags of a matter: how many items bear each, and which of them keep documents out of bundles. */
const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const path = { params: { path: { id: matter.id } } }
const { act, busy, problem, put } = useAct(['matters'])
const may = computed(() => matter.part === 'lead' && matter.state === 'open')
const changing = ref(false)
const form = reactive({ id: 0, name: '', withholds: false })
const usual = [
  { name: 'Responsive', withholds: false },
  { name: 'Not responsive', withholds: false },
  { name: 'Privileged', withholds: true },
]
const show = async (answer: Promise<Schemas['MatterView']>) => put(['matter', matter.id], await answer)
async function save() {
  const body = { name: form.name, withholds: form.withholds }
  const done = await act(() =>
    show(
      form.id
        ? take(api.PUT('/api/matters/{id}/tags/{tag}', { params: { path: { id: matter.id, tag: form.id } }, body }))
        : take(api.POST('/api/matters/{id}/tags', { ...path, body })),
    ),
  )
  if (done) Object.assign(form, { id: 0, name: '', withholds: false })
}
const begin = () =>
  act(async () => {
    for (const body of usual) await show(take(api.POST('/api/matters/{id}/tags', { ...path, body })))
  })
const remove = (t: Schemas['TagView']) =>
  act(() => show(take(api.DELETE('/api/matters/{id}/tags/{tag}', { params: { path: { id: matter.id, tag: t.id } } }))))
/** The tag whose items are looked at. */
const opened = ref<Schemas['TagView'] | null>(null)
const load = () =>
  take(
    api.GET('/api/matters/{id}/tags/{tag}/items', {
      params: { path: { id: matter.id, tag: opened.value!.id } },
    }),
  )
const edit = (t: Schemas['TagView']) => Object.assign(form, { id: t.id, name: t.name, withholds: t.withholds })
</script>

<template>
  <p class="small tags">
    <span class="label">Tags</span>
    <span v-for="t in matter.tags" :key="t.id"
      >{{ t.name }}{{ ' '
      }}<button
        v-if="t.items"
        class="link"
        :aria-label="`${count(t.items)} items that bear ${t.name}`"
        @click="opened = t"
      >
        {{ count(t.items) }}</button
      ><template v-else>0</template><span v-if="t.withholds" class="quiet">, withheld</span></span
    >
    <span v-if="matter.tags.length === 0" class="quiet">none yet; items that a sweep found are coded with them</span>
    <button v-if="may && matter.tags.length === 0" class="link" :disabled="busy" @click="begin">
      Begin with Responsive, Not responsive and Privileged
    </button>
    <button v-if="may" class="link" @click="((problem = null), (changing = true))">Change …</button>
    <span v-if="problem && !changing" class="problem" role="alert">{{ problem.message }}</span>
  </p>
  <GroupList
    v-if="opened"
    :id="['tag', opened.id, opened.items]"
    :title="`Items that bear “${opened.name}”`"
    :load="load"
    @close="opened = null"
  />
  <el-dialog v-model="changing" title="Tags of this matter" width="560" append-to-body>
    <table v-if="matter.tags.length" class="sheet">
      <thead>
        <tr>
          <th>Tag</th>
          <th class="num">Items</th>
          <th>In a bundle</th>
          <th><span class="sr">Acts</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in matter.tags" :key="t.id">
          <td>{{ t.name }}</td>
          <td class="num">{{ count(t.items) }}</td>
          <td>{{ t.withholds ? 'withheld, in the privilege log' : 'given' }}</td>
          <td class="acts">
            <button class="link" @click="edit(t)">Change</button>
            <button v-if="!t.items" class="link" :disabled="busy" @click="remove(t)">Remove</button>
          </td>
        </tr>
      </tbody>
    </table>
    <form class="fields" @submit.prevent="save">
      <label class="label" for="t-name">{{ form.id ? 'Change the tag' : 'Another tag' }}</label>
      <el-input id="t-name" v-model="form.name" maxlength="40" placeholder="Privileged" />
      <label class="check"
        ><input v-model="form.withholds" type="checkbox" /> What bears it stays out of bundles and stands in their
        privilege log</label
      >
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p class="end">
        <el-button v-if="form.id" size="small" @click="Object.assign(form, { id: 0, name: '', withholds: false })"
          >Leave it</el-button
        ><el-button size="small" type="primary" native-type="submit" :disabled="!form.name.trim()" :loading="busy">{{
          form.id ? 'Save' : 'Make it'
        }}</el-button>
      </p>
    </form>
  </el-dialog>
</template>

<style scoped>
.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  margin: 0;
}
.acts .link {
  margin-right: 10px;
}
.fields {
  margin-top: 14px;
}
.end {
  text-align: right;
  margin: 0;
}
</style>
