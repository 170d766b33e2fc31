<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'

const hooks = useQuery({ queryKey: ['webhooks'], queryFn: () => take(api.GET('/api/webhooks')) })
const { act, busy, problem } = useAct(['messages'])
const hook = ref<{
  id: number | null
  revision: number
  name: string
  url: string
  secret: string
  active: boolean
} | null>(null)
const editHook = (w: Schemas['WebhookView'] | null) => {
  problem.value = null
  hook.value = w
    ? { id: w.id, revision: w.revision, name: w.name, url: w.url, secret: '', active: w.active }
    : { id: null, revision: 0, name: '', url: 'https://', secret: '', active: true }
}
async function saveHook() {
  const h = hook.value!
  const body = { name: h.name, url: h.url, secret: h.secret || null, active: h.active }
  if (
    await act(() =>
      h.id
        ? take(api.PUT('/api/webhooks/{id}', { params: { path: { id: h.id } }, ...ifMatch(h.revision), body }))
        : take(api.POST('/api/webhooks', { body })),
    )
  )
    hook.value = null
}
const removeHook = (w: Schemas['WebhookView']) =>
  act(() => take(api.DELETE('/api/webhooks/{id}', { params: { path: { id: w.id } } })))
</script>

<template>
  <section class="panel block" aria-label="Webhooks">
    <header>
      <h2>Webhooks</h2>
      <el-button size="small" class="right" @click="editHook(null)">Add a webhook</el-button>
    </header>
    <p class="small quiet">
      Other systems are informed of batches, signatures, certificates and proposals by HTTP. Each body is signed: header
      X-WideKeel-Signature, HMAC-SHA256.
    </p>
    <table v-if="hooks.data.value?.length" class="sheet">
      <thead>
        <tr>
          <th>Name</th>
          <th>Address</th>
          <th class="num">Informed</th>
          <th class="num">Waiting</th>
          <th>Last failure</th>
          <th><span class="sr">Acts</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="w in hooks.data.value" :key="w.id">
          <td>{{ w.name }} <span v-if="!w.active" class="small quiet">off</span></td>
          <td class="url">{{ w.url }}</td>
          <td class="num">{{ count(w.sent) }}</td>
          <td class="num">{{ count(w.waiting) }}</td>
          <td class="lacking">{{ w.lastFailure ?? '' }}</td>
          <td class="num">
            <button class="link" :aria-label="`Change ${w.name}`" @click="editHook(w)">Change</button>
            {{ ' ' }}
            <button
              class="link"
              :aria-label="`Remove ${w.name}, with ${plural(w.waiting, 'delivery', 'deliveries')} that wait`"
              @click="removeHook(w)"
            >
              Remove
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="problem && !hook" class="problem" role="alert">{{ problem.message }}</p>
    <el-dialog
      v-if="hook"
      model-value
      :title="hook.id ? hook.name : 'Add a webhook'"
      width="480"
      append-to-body
      @close="hook = null"
    >
      <form class="fields" @submit.prevent="saveHook">
        <label class="label" for="w-name">Name</label
        ><el-input id="w-name" v-model="hook.name" placeholder="Ticket desk" />
        <label class="label" for="w-url">Address</label><el-input id="w-url" v-model="hook.url" />
        <label class="label" for="w-secret">Key of the signature</label
        ><el-input
          id="w-secret"
          v-model="hook.secret"
          type="password"
          autocomplete="new-password"
          :placeholder="hook.id ? 'unchanged' : 'at least 16 characters'"
        />
        <label><input v-model="hook.active" type="checkbox" /> on</label>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="hook = null">Leave it</el-button
        ><el-button type="primary" :loading="busy" @click="saveHook">Save</el-button></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.right {
  margin-left: auto;
}
.url {
  overflow-wrap: anywhere;
}
</style>
