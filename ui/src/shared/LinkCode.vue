<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useAct } from './act'
import { api, take } from './api/client'
import { codeAsked } from './linkCode'

/** The code that a decision by link asks for: sent when the dialog opens, typed once for each browser. */
const route = useRoute()
const path = () => ({ params: { path: { token: String(route.params.token) } } })
const sentTo = ref('')
const code = ref('')
const { act, busy, problem } = useAct([])
const send = () =>
  act(async () => {
    sentTo.value = (await take(api.POST('/api/links/{token}/code', path()))).mail
  })
const enter = async () =>
  code.value &&
  (await act(() => take(api.POST('/api/links/{token}/entrance', { ...path(), body: { code: code.value } })))) &&
  codeAsked.value?.done(true)
watch(codeAsked, (asked) => {
  if (!asked) return
  code.value = ''
  void send()
})
</script>

<template>
  <el-dialog
    :model-value="codeAsked !== null"
    title="Enter your code"
    width="min(420px, 94vw)"
    append-to-body
    @update:model-value="codeAsked?.done(false)"
  >
    <form class="fields" @submit.prevent="enter">
      <p>
        A decision needs a code, because a message can be forwarded.
        {{ sentTo ? `We sent one to ${sentTo}. It is valid for 15 minutes.` : '' }}
      </p>
      <label class="label" for="link-code">Code</label>
      <el-input id="link-code" v-model="code" inputmode="numeric" autocomplete="one-time-code" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer>
      <el-button :disabled="busy" @click="send">Send another code</el-button>
      <el-button type="primary" :loading="busy" :disabled="!code" @click="enter">Continue</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 8px;
}
p {
  margin: 0;
}
</style>
