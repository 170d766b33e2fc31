<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

/** Which addresses inside the organisation webhooks and connections may reach. */
const { data, error } = useQuery({
  queryKey: ['inner-networks'],
  queryFn: () => take(api.GET('/api/inner-networks')),
})
const networks = ref('')
watch(data, (d) => d && (networks.value = d.networks), { immediate: true })
const { act, busy, problem } = useAct(['inner-networks'])
const save = () => act(() => take(api.PUT('/api/inner-networks', { body: { networks: networks.value } })))
</script>

<template>
  <section class="panel block" aria-label="Inner networks">
    <h2>Inner networks</h2>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <form v-if="data" class="fields" @submit.prevent="save">
      <label class="label" for="inner">Networks inside the organisation that webhooks and connections may reach</label>
      <el-input id="inner" v-model="networks" placeholder="192.168.10.0/24, 10.4.7.9" />
      <p class="quiet small">
        Public addresses are always reached. This machine and private networks are reached only where they are listed.
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p>
        <el-button type="primary" native-type="submit" :loading="busy" :disabled="networks === data.networks"
          >Save</el-button
        >
      </p>
    </form>
  </section>
</template>
