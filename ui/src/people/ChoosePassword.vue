<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { choosePassword } from '@/shared/session'

/** Another password of one's own. */
const current = ref('')
const next = ref('')
const again = ref('')
const chosen = ref(false)
const differs = computed(() => again.value !== '' && again.value !== next.value)
const ready = computed(() => current.value && next.value && again.value === next.value)
const { act, busy, problem } = useAct([])
async function choose() {
  if (!ready.value || !(await act(() => choosePassword(current.value, next.value)))) return
  current.value = next.value = again.value = ''
  chosen.value = true
}
</script>

<template>
  <form class="choose" @submit.prevent="choose">
    <h2>Password</h2>
    <label class="label" for="pw-current">Current password</label>
    <el-input id="pw-current" v-model="current" type="password" autocomplete="current-password" show-password />
    <label class="label" for="pw-next">New password</label>
    <el-input id="pw-next" v-model="next" type="password" autocomplete="new-password" show-password />
    <label class="label" for="pw-again">New password, once more</label>
    <el-input id="pw-again" v-model="again" type="password" autocomplete="new-password" show-password />
    <p v-if="differs" class="problem" role="alert">The two are not the same.</p>
    <p v-else-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p v-else-if="chosen" class="settled" role="status">✓ Changed. You are signed out everywhere else.</p>
    <div class="acts">
      <el-button type="primary" native-type="submit" :disabled="!ready" :loading="busy">Change password</el-button>
    </div>
  </form>
</template>

<style scoped>
.choose {
  display: grid;
  gap: 8px;
  max-width: 360px;
}
p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
.acts .el-button {
  margin: 0;
}
</style>
