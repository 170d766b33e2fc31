<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { roleWords, type Role } from '@/shared/words'

/** Which roles require one-time codes at the sign-in. */
const { data, error } = useQuery({
  queryKey: ['factor-roles'],
  queryFn: () => take(api.GET('/api/factor-roles')),
})
const { act, busy, problem } = useAct(['factor-roles'])
const roles = Object.keys(roleWords) as Role[]
const set = (role: Role, on: boolean) =>
  act(() =>
    take(
      api.PUT('/api/factor-roles', {
        body: { roles: on ? [...data.value!.roles, role] : data.value!.roles.filter((r) => r !== role) },
      }),
    ),
  )
</script>

<template>
  <section class="panel block" aria-label="One-time codes by role">
    <h2>One-time codes by role</h2>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <p class="quiet small">
        Whoever holds a marked role signs in with a code of an authenticator app besides the password.
        {{
          data.roles.length && data.without
            ? `${plural(data.without, 'person', 'people')} will set one up at the next sign-in.`
            : ''
        }}
      </p>
      <div class="roles">
        <label v-for="role in roles" :key="role"
          ><input
            type="checkbox"
            :checked="data.roles.includes(role)"
            :disabled="busy"
            @change="set(role, ($event.target as HTMLInputElement).checked)"
          />
          {{ roleWords[role] }}</label
        >
      </div>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </template>
  </section>
</template>

<style scoped>
h2 {
  font-size: 18px;
  margin: 0;
}
.roles {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 6px 16px;
}
.roles label {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
