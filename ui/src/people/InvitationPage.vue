<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

/** Where somebody chooses the password of their account, from the link in their mailbox. */
const route = useRoute()
const path = computed(() => ({ params: { path: { token: String(route.params.token) } } }))
const { data, error } = useQuery({
  queryKey: computed(() => ['invitation', route.params.token]),
  queryFn: () => take(api.GET('/api/invitations/{token}', path.value)),
  retry: false,
})
const next = ref('')
const again = ref('')
const chosen = ref(false)
const differs = computed(() => again.value !== '' && again.value !== next.value)
const ready = computed(() => next.value && again.value === next.value)
const { act, busy, problem } = useAct([])
async function choose() {
  if (!ready.value) return
  chosen.value = await act(() =>
    take(api.POST('/api/invitations/{token}', { ...path.value, body: { password: next.value } })),
  )
}
</script>

<template>
  <main class="page">
    <p v-if="error && !chosen" class="problem" role="alert">{{ error.message }}</p>
    <form v-if="data" class="panel block" @submit.prevent="choose">
      <h1>Choose a password</h1>
      <p class="quiet">{{ data.name }}, {{ data.mail }} · {{ data.organisation }}</p>
      <template v-if="!chosen">
        <label class="label" for="in-next">Password, at least 12 characters</label>
        <el-input id="in-next" v-model="next" type="password" autocomplete="new-password" show-password />
        <label class="label" for="in-again">Password, once more</label>
        <el-input id="in-again" v-model="again" type="password" autocomplete="new-password" show-password />
        <p v-if="differs" class="problem" role="alert">The two passwords differ.</p>
        <p v-else-if="problem" class="problem" role="alert">{{ problem.message }}</p>
        <p><el-button type="primary" native-type="submit" :disabled="!ready" :loading="busy">Save</el-button></p>
      </template>
      <p v-else role="status">✓ Saved. <RouterLink to="/">Sign in</RouterLink></p>
    </form>
  </main>
</template>

<style scoped>
.page {
  max-width: 460px;
  margin: 0 auto;
  padding: 48px 16px;
}
.block {
  display: grid;
  gap: 8px;
}
h1 {
  font-size: 22px;
  margin: 0;
}
p {
  margin: 0;
}
</style>
