<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'
import { person } from '@/shared/session'
import { keepTyped } from '@/shared/typed'

const keys = useQuery({ queryKey: ['api-keys'], queryFn: () => take(api.GET('/api/api-keys')) })
const { act, busy, problem } = useAct(['people'])
const keyForm = reactive({ name: '', days: 90, scopes: [] as Schemas['Right'][], shown: false, issued: '' })
const keySaved = keepTyped('key.new', keyForm, ['shown', 'issued'])
const rights = computed(() => person.value?.rights ?? [])
const rightWords = (r: string) => r.replace(/([A-Z])/g, ' $1').toLowerCase()
const addKey = () =>
  act(async () => {
    const made = await take(
      api.POST('/api/api-keys', { body: { name: keyForm.name, days: keyForm.days, scopes: keyForm.scopes } }),
    )
    keyForm.issued = made.key
    keySaved(false)
  })
const revoke = (id: number) => act(() => take(api.DELETE('/api/api-keys/{id}', { params: { path: { id } } })))
</script>

<template>
  <header>
    <h2>API keys</h2>
    <span class="quiet small">for programs; each can do no more than its person</span
    ><el-button class="right" @click="((keyForm.shown = true), (keyForm.issued = ''), (problem = null))"
      >Issue a key</el-button
    >
  </header>
  <section class="panel block">
    <table class="sheet">
      <thead>
        <tr>
          <th>Name</th>
          <th>Begins</th>
          <th>Person</th>
          <th>May</th>
          <th>Expires</th>
          <th><span class="sr">Revoke</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="k in keys.data.value ?? []" :key="k.id">
          <td>{{ k.name }}</td>
          <td>{{ k.prefix }}…</td>
          <td>{{ k.person }}</td>
          <td>{{ k.scopes.map(rightWords).join(', ') }}</td>
          <td>{{ k.revokedAt ? `revoked ${moment(k.revokedAt)}` : moment(k.expiresAt) }}</td>
          <td class="num"><button v-if="!k.revokedAt" class="link" @click="revoke(k.id)">Revoke</button></td>
        </tr>
      </tbody>
    </table>
    <p v-if="keys.data.value?.length === 0" class="quiet">No key was issued yet.</p>
  </section>
  <el-dialog v-model="keyForm.shown" title="Issue a key" width="480" append-to-body>
    <div v-if="keyForm.issued" class="fields">
      <p>Copy it now; it is not shown again.</p>
      <code class="key">{{ keyForm.issued }}</code>
    </div>
    <div v-else class="fields">
      <label class="label" for="k-name">What it is for</label><el-input id="k-name" v-model="keyForm.name" />
      <label class="label" for="k-days">Days until it expires</label
      ><input id="k-days" v-model.number="keyForm.days" class="box" type="number" min="1" max="365" />
      <span class="label">It may</span
      ><label v-for="r in rights" :key="r" class="check"
        ><input v-model="keyForm.scopes" type="checkbox" :value="r" /> {{ rightWords(r) }}</label
      >
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </div>
    <template #footer
      ><el-button
        v-if="!keyForm.issued"
        type="primary"
        :disabled="!keyForm.name || !keyForm.scopes.length"
        :loading="busy"
        @click="addKey"
        >Issue</el-button
      ></template
    >
  </el-dialog>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  margin-top: 6px;
}
.right {
  margin-left: auto;
}
h2 {
  font-size: 18px;
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
.key {
  overflow-wrap: anywhere;
  padding: 10px;
  background: var(--sheet-2);
  border: 1px solid var(--line);
}
</style>
