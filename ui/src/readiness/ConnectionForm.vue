<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { connectionWords } from './words'

/** Where a program listens and with which key; it is tried before it is kept. */
const { connection } = defineProps<{ connection?: Schemas['ConnectionView'] }>()
const emit = defineEmits<{ kept: []; left: [] }>()
const form = reactive({
  kind: connection?.kind ?? ('hosts' as Schemas['ConnectionKind']),
  name: connection?.name ?? '',
  address: connection?.address ?? 'http://127.0.0.1:5081',
  secret: '',
})
const tried = ref<Schemas['ConnectionRecordPage'] | null>(null)
const { act, busy, problem } = useAct(['readiness'])
const attempt = () =>
  act(async () => {
    tried.value = null
    tried.value = await take(api.POST('/api/connections/trial', { body: { ...form } }))
  })
async function save() {
  const body = { ...form, secret: form.secret || null }
  const done = await act(() =>
    connection
      ? take(
          api.PUT('/api/connections/{id}', {
            params: { path: { id: connection.id } },
            ...ifMatch(connection.revision),
            body,
          }),
        )
      : take(api.POST('/api/connections', { body })),
  )
  if (done) emit('kept')
}
</script>

<template>
  <form class="panel block grid" @submit.prevent="save">
    <label class="label" for="co-name">Name</label><el-input id="co-name" v-model="form.name" size="small" />
    <template v-if="!connection"
      ><span class="label">What it knows</span
      ><el-radio-group v-model="form.kind" size="small" aria-label="What it knows"
        ><el-radio-button v-for="(w, k) in connectionWords" :key="k" :value="k">{{
          w
        }}</el-radio-button></el-radio-group
      ></template
    >
    <label class="label" for="co-address">Address</label
    ><el-input id="co-address" v-model="form.address" size="small" /> <label class="label" for="co-key">Key</label
    ><el-input
      id="co-key"
      v-model="form.secret"
      size="small"
      type="password"
      autocomplete="off"
      :placeholder="connection ? 'the one there is' : 'at least 16 characters; the program has it too'"
    />
    <span /><span
      ><el-button size="small" :disabled="!form.secret" :loading="busy" @click="attempt">Try it</el-button>
      <el-button type="primary" size="small" native-type="submit" :loading="busy">Keep it</el-button>
      <button type="button" class="link" @click="emit('left')">Leave it</button></span
    >
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
    <p v-if="tried" class="wide settled small" role="status">
      ✓ It answers with {{ plural(tried.total, 'record')
      }}{{
        tried.records.length
          ? `: ${tried.records
              .slice(0, 3)
              .map((r) => r.title)
              .join(', ')} …`
          : ''
      }}
    </p>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: center;
}
.wide {
  grid-column: 1 / -1;
}
</style>
