<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, moment } from '@/shared/format'
import { may } from '@/shared/session'
import { keepTyped } from '@/shared/typed'

/** The sources of the directory; a program's token is shown once. */
type Source = Schemas['DirectorySourceView']
const kinds: Record<Source['kind'], string> = {
  files: 'files that somebody takes in',
  scim: 'a program sends by SCIM 2.0',
  standIn: 'simulated; it is read, and carries out what is decided here',
}
const sources = useQuery({
  queryKey: ['directory-sources'],
  queryFn: () => take(api.GET('/api/directory/sources')),
})
const form = reactive({ name: '', kind: 'scim' as 'scim' | 'files', shown: false })
const saved = keepTyped('directory-source.new', form, ['shown'])
const made = ref<Schemas['DirectorySourceMade'] | null>(null)
const ending = ref<Source | null>(null)
const { act, busy, problem } = useAct(['directory'])
const make = () =>
  act(async () => {
    made.value = await take(api.POST('/api/directory/sources', { body: { name: form.name, kind: form.kind } }))
    saved()
    form.shown = false
  })
const renew = (id: number) =>
  act(
    async () => (made.value = await take(api.POST('/api/directory/sources/{id}/token', { params: { path: { id } } }))),
  )
const failing = ref(false)
const fail = async () => {
  failing.value = await act(() => take(api.POST('/api/directory/failures', { body: { changes: 1 } })))
}
async function end() {
  const id = ending.value!.id
  if (await act(() => take(api.POST('/api/directory/sources/{id}/end', { params: { path: { id } } }))))
    ending.value = null
}
</script>

<template>
  <section aria-label="Sources">
    <header>
      <h2>Sources</h2>
      <el-button class="right" size="small" @click="((form.shown = true), (made = null), (problem = null))"
        >Add a source</el-button
      >
    </header>
    <p v-if="problem && !form.shown && !ending" class="problem" role="alert">{{ problem.message }}</p>
    <p v-if="failing" class="small" role="status">The next change to the simulated directory will fail, once.</p>
    <div v-if="made?.token" class="panel block token" role="status">
      <p>
        <strong>The program sends to this address with this token.</strong> The token is shown once; it opens nothing
        else.
      </p>
      <p class="code">{{ made.address }}</p>
      <p class="code">{{ made.token }}</p>
      <p><el-button size="small" @click="made = null">I have copied it</el-button></p>
    </div>
    <div class="panel">
      <table class="sheet">
        <thead>
          <tr>
            <th>Source</th>
            <th>How it comes</th>
            <th class="num">People</th>
            <th class="num">Groups</th>
            <th class="num">Places</th>
            <th>Last word</th>
            <th><span class="sr">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in sources.data.value ?? []" :key="s.id">
            <td>
              <strong>{{ s.name }}</strong>
            </td>
            <td>
              {{ s.ended ? 'disconnected; what came from it stays until another source names it' : kinds[s.kind] }}
              <span v-if="s.tokenPrefix" class="quiet code">{{ s.tokenPrefix }}…</span>
            </td>
            <td class="num">
              <RouterLink :to="{ query: { source: s.id } }">{{ count(s.people) }}</RouterLink>
            </td>
            <td class="num">
              <RouterLink :to="{ query: { source: s.id } }">{{ count(s.groups) }}</RouterLink>
            </td>
            <td class="num">
              <RouterLink v-if="may('readAccess') && s.places" to="/access/places">{{
                count(s.places)
              }}</RouterLink><template v-else>{{ count(s.places) }}</template>
            </td>
            <td>{{ s.lastAt ? moment(s.lastAt) : 'nothing yet' }}</td>
            <td class="num acts">
              <button v-if="s.canFail" class="link" :disabled="busy" @click="fail">Fail the next change</button>
              <template v-if="!s.ended && s.kind !== 'standIn'">
                <button v-if="s.kind === 'scim'" class="link" :disabled="busy" @click="renew(s.id)">New token</button>
                <button class="link" @click="((ending = s), (problem = null))">Disconnect</button>
              </template>
            </td>
          </tr>
          <tr v-if="sources.data.value?.length === 0">
            <td colspan="7" class="quiet">
              None yet. Take in files, or add a source by which a program of your directory sends its people and groups.
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <el-dialog v-model="form.shown" title="Add a source" width="460" append-to-body>
      <form class="fields" @submit.prevent="make">
        <label class="label" for="ds-name">Name</label>
        <el-input id="ds-name" v-model="form.name" autofocus maxlength="100" placeholder="Personnel" />
        <span id="ds-kind" class="label">How it comes</span>
        <el-radio-group v-model="form.kind" aria-labelledby="ds-kind">
          <el-radio value="scim">A program sends each change (SCIM 2.0)</el-radio>
          <el-radio value="files">Somebody takes in files (CSV, LDIF)</el-radio>
        </el-radio-group>
        <p class="small quiet">
          Each person, group and place has one source, which alone says what there is to say of it. These two are
          changed where they are kept: what is decided here is asked for, and shows when the source says it.
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="form.shown = false">Cancel</el-button
        ><el-button type="primary" :loading="busy" :disabled="!form.name.trim()" @click="make"
          >Add it</el-button
        ></template
      >
    </el-dialog>
    <el-dialog
      :model-value="!!ending"
      :title="`Disconnect ${ending?.name}`"
      width="460"
      append-to-body
      @update:model-value="ending = null"
    >
      <p>
        Its {{ count(ending?.people ?? 0) }} people, {{ count(ending?.groups ?? 0) }} groups and
        {{ count(ending?.places ?? 0) }} places stay as they are. Its token opens nothing from now on. Another source
        may take them over by naming them.
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer
        ><el-button @click="ending = null">Keep it</el-button
        ><el-button type="primary" :loading="busy" @click="end">Disconnect it</el-button></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  margin-bottom: 8px;
}
.sheet th,
.sheet td {
  padding: 8px 14px;
}
.token {
  margin-bottom: 12px;
}
.token p {
  margin: 4px 0;
}
h2 {
  font-size: 18px;
}
.right {
  margin-left: auto;
}
.code {
  font-family: var(--mono, monospace);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.acts {
  white-space: nowrap;
}
.acts .link + .link {
  margin-left: 12px;
}
</style>
