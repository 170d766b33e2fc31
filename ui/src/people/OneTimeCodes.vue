<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { focusFirst } from '@/shared/focus'
import { moment, plural } from '@/shared/format'
import { saveAs } from '@/shared/save'

/** One-time codes at one's sign-in: set up with an app, recovery codes, and how to turn them off. */
const { data, error } = useQuery({
  queryKey: ['one-time-codes'],
  queryFn: () => take(api.GET('/api/session/one-time-codes')),
})
/** The codes are on, and their recovery codes were shown. */
const emit = defineEmits<{ setUp: [] }>()
const { act, busy, problem } = useAct(['one-time-codes', 'sessions'])
/** What the dialog asks or shows: the way to the app in two steps, then the recovery codes; or one of two other acts. */
type Step = 'password' | 'app' | 'renew' | 'turn-off' | 'recovery'
const titles: Record<Step, string> = {
  password: 'Set up one-time codes',
  app: 'Set up one-time codes',
  renew: 'New recovery codes',
  'turn-off': 'Turn one-time codes off',
  recovery: 'Your recovery codes',
}
const step = ref<Step | null>(null)
const form = useTemplateRef<HTMLElement>('form')
const password = ref('')
const code = ref('')
const key = ref<Schemas['AuthenticatorKeyView'] | null>(null)
const recovery = ref<string[]>([])
const ready = computed(() =>
  step.value === 'app' ? code.value : password.value && (step.value === 'password' || code.value),
)
const grouped = computed(() => key.value?.key.match(/.{1,4}/g)?.join(' '))

/** Nothing secret stays once the dialog is closed. */
function go(to: Step | null) {
  if (step.value === 'recovery') emit('setUp')
  step.value = to
  problem.value = null
  password.value = code.value = ''
  if (to !== 'app') key.value = null
  if (to !== 'recovery') recovery.value = []
}
async function next() {
  if (!ready.value) return
  const both = { password: password.value, code: code.value }
  if (step.value === 'password') {
    const begun = await act(async () => {
      key.value = await take(api.POST('/api/session/one-time-codes', { body: { password: password.value } }))
    })
    if (begun) {
      go('app')
      await nextTick()
      focusFirst(form.value)
    }
  } else if (step.value === 'turn-off') {
    if (await act(() => take(api.POST('/api/session/one-time-codes/turn-off', { body: both })))) go(null)
  } else {
    const shown = await act(async () => {
      const made =
        step.value === 'app'
          ? api.POST('/api/session/one-time-codes/confirmation', { body: { code: code.value } })
          : api.POST('/api/session/one-time-codes/recovery-codes', { body: both })
      recovery.value = (await take(made)).codes
    })
    if (shown) go('recovery')
  }
}
const save = () =>
  saveAs('recovery-codes.txt', new Blob([`${recovery.value.join('\n')}\n`], { type: 'text/plain;charset=utf-8' }))
</script>

<template>
  <section class="panel block" aria-label="One-time codes">
    <h2>One-time codes</h2>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data?.since">
      <p>
        On since {{ moment(data.since) }}. Your sign-in asks for your password and the code that your authenticator app
        shows.
        <span :class="{ low: data.recoveryCodesLeft < 3 }"
          >{{ plural(data.recoveryCodesLeft, 'recovery code') }} {{ data.recoveryCodesLeft === 1 ? 'is' : 'are' }} left
          in case the app is lost.</span
        >
      </p>
      <p class="acts-row">
        <el-button @click="go('renew')">New recovery codes …</el-button
        ><el-button @click="go('turn-off')">Turn them off …</el-button>
      </p>
    </template>
    <template v-else-if="data">
      <p class="quiet">
        With them, a stolen password lets nobody in: your sign-in asks besides for a code of six digits that an
        authenticator app on your phone shows, another one every 30 seconds.
      </p>
      <p class="acts-row"><el-button @click="go('password')">Set them up …</el-button></p>
    </template>

    <el-dialog
      :model-value="step !== null"
      :title="step ? titles[step] : ''"
      width="480"
      append-to-body
      :close-on-click-modal="step !== 'recovery'"
      @update:model-value="go(null)"
    >
      <form v-if="step && step !== 'recovery'" id="otc" ref="form" class="fields" @submit.prevent="next">
        <template v-if="step === 'app' && key">
          <p>1. Scan this with the app, or type the key into it.</p>
          <svg class="qr" :viewBox="`0 0 ${key.qrSize} ${key.qrSize}`" role="img" aria-label="The key as a QR code">
            <rect width="100%" height="100%" fill="#ffffff" />
            <path :d="key.qrPath" fill="#000000" shape-rendering="crispEdges" />
          </svg>
          <code class="key">{{ grouped }}</code>
          <p class="small"><a :href="key.address">Open it in an app on this device</a></p>
          <p>2. Type the code that the app shows now. You are then signed out everywhere else.</p>
        </template>
        <template v-else>
          <p v-if="step === 'turn-off'">From then on your password alone signs you in.</p>
          <p v-if="step === 'renew'">The recovery codes that you have now are worth nothing afterwards.</p>
          <label class="label" for="otc-password">Current password</label>
          <el-input
            id="otc-password"
            v-model="password"
            type="password"
            autocomplete="current-password"
            show-password
          />
        </template>
        <template v-if="step !== 'password'">
          <label class="label" for="otc-code">{{ step === 'app' ? 'Code' : 'Code, or a recovery code' }}</label>
          <el-input id="otc-code" v-model="code" autocomplete="one-time-code" class="typed" />
        </template>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <div v-else class="fields">
        <p>Each signs you in once, in place of a code. Keep them where your phone is not: they are not shown again.</p>
        <ul class="codes">
          <li v-for="c in recovery" :key="c">
            <code>{{ c }}</code>
          </li>
        </ul>
      </div>
      <template #footer>
        <template v-if="step === 'recovery'"
          ><el-button @click="save">Save as a file</el-button
          ><el-button type="primary" @click="go(null)">I have kept them</el-button></template
        >
        <template v-else
          ><el-button @click="go(null)">Leave it</el-button
          ><el-button type="primary" native-type="submit" form="otc" :disabled="!ready" :loading="busy">{{
            step === 'app'
              ? 'Turn one-time codes on'
              : step === 'turn-off'
                ? 'Turn them off'
                : step === 'renew'
                  ? 'Make new ones'
                  : 'Go on'
          }}</el-button></template
        >
      </template>
    </el-dialog>
  </section>
</template>

<style scoped>
p {
  margin: 0;
  max-width: 75ch;
}
.acts-row {
  margin-top: 10px;
}
.low {
  color: var(--copper);
}
.qr {
  width: 208px;
  height: 208px;
  border: 1px solid var(--line);
}
.typed {
  max-width: 220px;
}
.key {
  padding: 8px 10px;
  background: var(--sheet-2);
  border: 1px solid var(--line);
}
.codes {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 20px;
  margin: 4px 0;
  padding: 12px 14px;
  list-style: none;
  background: var(--sheet-2);
  border: 1px solid var(--line);
}
</style>
