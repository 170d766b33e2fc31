<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { count, moment, plural } from '@/shared/format'

/** Whether the archive and safekeeping lie encrypted on the disk, and the keys that they are encrypted with. */
const { data, error } = useQuery({
  queryKey: ['settings', 'encryption'],
  queryFn: () => take(api.GET('/api/encryption')),
  // The job that encrypts what is there takes a while.
  refetchInterval: (query) =>
    query.state.data?.keys.length && query.state.data.contents.some((c) => c.inTheOpen) ? 10_000 : false,
})
const { act, busy, problem } = useAct(['settings'])
const begin = () => act(() => take(api.POST('/api/encryption')))
const rotate = () => act(() => take(api.POST('/api/encryption/rotation')))
const newest = computed(() => data.value?.keys[0])
</script>

<template>
  <section class="panel block" aria-label="Encryption at rest">
    <h2>Encryption at rest</h2>
    <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <template v-if="data">
      <p v-if="!newest" class="quiet">
        The files of the archive and the copies in safekeeping lie on the disk in the open. Encrypted, they can be read
        with the master key only, which lies in the folder of secrets, away from the data and its backups. Keep a copy
        of that folder: without it nobody reads them again. Other engines then read the archive from a copy in the open,
        which
        <code>widekeel open-archive</code> makes.
      </p>
      <p v-else>
        Encrypted by AES-256-GCM since {{ moment(data.keys.at(-1)!.madeAt) }}, now by the key
        <span class="code">{{ newest.id.slice(0, 8) }}</span><template v-if="data.keys.length > 1">
          of {{ moment(newest.madeAt) }}; {{ plural(data.keys.length - 1, 'former key') }}
          {{ data.keys.length === 2 ? 'reads' : 'read' }} what they encrypted</template
        >.
      </p>
      <ul>
        <li v-for="c in data.contents" :key="c.name">
          {{ c.name }}: <template v-if="newest">{{ count(c.encrypted) }} encrypted, </template
          ><span :class="{ lacking: newest && c.inTheOpen }">{{ count(c.inTheOpen) }} in the open</span>
        </li>
      </ul>
      <p>
        <el-button v-if="!newest" size="small" :loading="busy" @click="begin">Encrypt them from now on</el-button>
        <template v-else
          ><el-button size="small" :loading="busy" @click="rotate">Rotate the keys</el-button> &nbsp;<span
            class="small quiet"
            >New files get a new key, all keys are wrapped by a new master key, and no file is written anew.</span
          ></template
        >
      </p>
    </template>
  </section>
</template>

<style scoped>
ul {
  margin: 0 0 8px;
  padding-left: 18px;
}
p {
  max-width: 75ch;
}
</style>
