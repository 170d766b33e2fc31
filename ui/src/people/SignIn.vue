<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'
import { session, signIn } from '@/shared/session'
import { useAct } from '@/shared/act'

const mail = ref('')
const password = ref('')
const code = ref('')
/** The password is right, and its person has one-time codes. */
const asked = ref(false)
const field = useTemplateRef<{ focus(): void }>('code-field')
const { act, busy, problem } = useAct([], {
  refused: async ({ code: why }) => {
    if (why === 'one-time-code-needed') {
      asked.value = true
      problem.value = null
    }
    code.value = ''
    await nextTick()
    field.value?.focus()
  },
})

const enter = () => act(() => signIn(mail.value, password.value, asked.value ? code.value : undefined))
/** Another person, or the same one with another password. */
function begin() {
  asked.value = false
  code.value = ''
  problem.value = null
}
function use(account: { mail: string; password: string }) {
  begin()
  mail.value = account.mail
  password.value = account.password
  void enter()
}
</script>

<template>
  <main class="signin">
    <form class="panel" @submit.prevent="enter">
      <svg width="56" height="36" viewBox="0 0 28 18" aria-hidden="true">
        <path
          d="M1 2h26l-4.500 7h-17zM9.500 9h9L14 16z"
          fill="none"
          stroke="var(--copper)"
          stroke-width="1.600"
          stroke-linejoin="round"
        />
      </svg>
      <h1>Wide Keel</h1>
      <p class="quiet">{{ session?.organisation }}</p>
      <template v-if="asked">
        <p>{{ mail }}</p>
        <label class="label" for="code">Code of your authenticator app</label>
        <el-input id="code" ref="code-field" v-model="code" autocomplete="one-time-code" />
        <p class="small quiet">
          Without the app, type one of your recovery codes. Without those, ask an administrator.
        </p>
      </template>
      <template v-else>
        <label class="label" for="mail">Mail address</label>
        <el-input id="mail" v-model="mail" type="email" autocomplete="username" />
        <label class="label" for="password">Password</label>
        <el-input id="password" v-model="password" type="password" autocomplete="current-password" show-password />
      </template>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <el-button type="primary" native-type="submit" :loading="busy" :disabled="asked && !code">Sign in</el-button>
      <el-button v-if="asked" @click="begin">Sign in as somebody else</el-button>
    </form>
    <section v-if="session?.accounts.length" class="panel accounts" aria-label="Accounts of the demo">
      <h2>Accounts of the demo</h2>
      <p class="quiet small">
        Everybody has the password <code>{{ session.accounts[0]!.password }}</code>. Press a name to come in as that
        person.
      </p>
      <button v-for="account in session.accounts" :key="account.mail" type="button" @click="use(account)">
        <strong>{{ account.name }}</strong><span>{{ account.role }}</span>
      </button>
    </section>
  </main>
</template>

<style scoped>
.signin {
  min-height: 100%;
  display: flex;
  gap: 24px;
  align-items: center;
  justify-content: center;
  flex-wrap: wrap;
  padding: 24px;
}
form,
.accounts {
  width: 340px;
  padding: 28px;
  display: grid;
  gap: 8px;
  box-shadow: var(--shadow);
}
h1 {
  font-size: 26px;
}
h2 {
  font-size: 17px;
}
p {
  margin: 0;
}
form .el-button {
  margin: 4px 0 0;
  height: 38px;
}
.accounts button {
  display: grid;
  text-align: left;
  padding: 8px 10px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
}
.accounts button:hover {
  background: var(--sheet-2);
  border-color: var(--ink-3);
}
.accounts span {
  font-size: 12.5px;
  color: var(--ink-2);
}
</style>
