<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { reactive, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'

const settings = useQuery({ queryKey: ['mail-settings'], queryFn: () => take(api.GET('/api/mail-settings')) })
const mail = reactive({
  host: '',
  port: 587,
  tls: true,
  user: '',
  password: null as string | null,
  from: '',
  address: '',
  certificateYears: 7,
})
watch(
  settings.data,
  (s) =>
    s &&
    Object.assign(mail, {
      host: s.host,
      port: s.port,
      tls: s.tls,
      user: s.user,
      password: null,
      from: s.from,
      address: s.address,
      certificateYears: s.certificateYears,
    }),
  { immediate: true },
)
/** As people write it. */
const here = 'https://records.tarnholm.example'
const { act, busy, problem } = useAct(['messages'])
const say = (message: string) => ElMessage({ message, type: 'success' })
const save = async () => (await act(() => take(api.PUT('/api/mail-settings', { body: { ...mail } })))) && say('Saved.')
const test = async () =>
  (await act(() => take(api.POST('/api/mail-settings/test', {})))) && say('The mail server took the test.')
</script>

<template>
  <section class="panel block" aria-label="Mail server">
    <h2>Mail server</h2>
    <p v-if="settings.data.value?.toSink" class="small quiet">
      While the sink stands in, these settings wait; they count once the product is started without it.
    </p>
    <p v-else-if="!mail.host" class="small quiet">None yet: messages are kept until there is one.</p>
    <form class="pairs" @submit.prevent="save">
      <div>
        <label class="label" for="m-host">Host</label
        ><el-input id="m-host" v-model="mail.host" placeholder="mail.tarnholm.example" />
      </div>
      <div>
        <label class="label" for="m-port">Port</label><el-input id="m-port" v-model.number="mail.port" type="number" />
      </div>
      <div>
        <label class="label" for="m-user">User</label><el-input id="m-user" v-model="mail.user" autocomplete="off" />
      </div>
      <div>
        <label class="label" for="m-password">Password</label
        ><el-input
          id="m-password"
          v-model="mail.password"
          type="password"
          autocomplete="new-password"
          :placeholder="settings.data.value?.hasPassword ? 'unchanged' : ''"
        />
      </div>
      <div>
        <label class="label" for="m-from">From</label
        ><el-input id="m-from" v-model="mail.from" placeholder="records@tarnholm.example" />
      </div>
      <div>
        <label class="label" for="m-address">Address of this product, for links</label
        ><el-input id="m-address" v-model="mail.address" :placeholder="here" />
      </div>
      <div>
        <label class="label" for="m-years">Certificates stay, in years</label
        ><el-input id="m-years" v-model.number="mail.certificateYears" type="number" />
      </div>
      <div class="check">
        <label><input v-model="mail.tls" type="checkbox" /> encrypted (STARTTLS)</label>
      </div>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p class="acts-row">
        <el-button type="primary" native-type="submit" :loading="busy">Save</el-button
        ><el-button :loading="busy" @click="test">Send me a test</el-button>
      </p>
    </form>
  </section>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 10px 16px;
}
.pairs > div {
  display: grid;
  gap: 4px;
  align-content: start;
}
.pairs .check {
  align-content: end;
}
.acts-row {
  grid-column: 1 / -1;
  display: flex;
  gap: 8px;
  margin: 0;
}
.acts-row .el-button {
  margin: 0;
}
.pairs .problem {
  grid-column: 1 / -1;
  margin: 0;
}
</style>
