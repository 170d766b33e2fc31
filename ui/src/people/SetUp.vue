<script setup lang="ts">
import { reactive } from 'vue'
import { loadSession, signIn } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

const form = reactive({
  code: '',
  organisation: '',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'Etc/UTC',
  fiscalYearEnd: '12-31',
  administratorName: '',
  administratorMail: '',
  password: '',
})
const fields = [
  { key: 'code', field: 'code', label: 'Code', hint: "The server's console shows it, where Wide Keel was started" },
  { key: 'organisation', field: 'organisation', label: 'Organisation', hint: '' },
  { key: 'zone', field: 'zone', label: 'Time zone', hint: 'Retention counts calendar days in this zone' },
  {
    key: 'fiscalYearEnd',
    field: 'fiscalYearEnd',
    label: 'Last day of the fiscal year',
    hint: 'MM-DD, for example 09-30',
  },
  { key: 'administratorName', field: 'name', label: 'Your name', hint: '' },
  { key: 'administratorMail', field: 'mail', label: 'Your mail address', hint: '' },
  { key: 'password', field: 'password', label: 'Your password', hint: 'At least 12 characters' },
] as const
const { act, busy, problem } = useAct([])

const begin = () =>
  act(async () => {
    await take(api.POST('/api/set-up', { body: { ...form } }))
    await loadSession()
    await signIn(form.administratorMail, form.password)
  })
</script>

<template>
  <main class="setup">
    <form class="panel" @submit.prevent="begin">
      <h1>Set up Wide Keel</h1>
      <p class="quiet">
        You become the first administrator and records manager. Afterwards connect a share under Sources.
      </p>
      <template v-for="f in fields" :key="f.key">
        <label class="label" :for="f.key">{{ f.label }}</label>
        <el-input :id="f.key" v-model="form[f.key]" :type="f.key === 'password' ? 'password' : 'text'" />
        <p v-if="problem?.field === f.field" class="problem" role="alert">{{ problem.message }}</p>
        <p v-else-if="f.hint" class="small quiet">{{ f.hint }}</p>
      </template>
      <p v-if="problem && !problem.field" class="problem" role="alert">{{ problem.message }}</p>
      <el-button type="primary" native-type="submit" :loading="busy">Begin</el-button>
    </form>
  </main>
</template>

<style scoped>
.setup {
  display: flex;
  justify-content: center;
  padding: 40px 20px;
}
form {
  width: 420px;
  padding: 28px;
  display: grid;
  gap: 6px;
}
h1 {
  font-size: 24px;
}
p {
  margin: 0;
}
.el-button {
  margin-top: 12px;
  height: 38px;
}
</style>
