<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'

/** Somebody outside asks for a document; what they say goes to whoever decides, and nowhere else. */
const { document } = defineProps<{ document: Schemas['AssuranceOffer'] }>()
const open = ref(false)
const sent = ref(false)
const form = reactive({ name: '', organisation: '', mail: '', reason: '' })
const { act, busy, problem } = useAct([])
async function ask() {
  if (
    await act(() =>
      take(
        api.POST('/api/assurance/documents/{id}/asks', { params: { path: { id: document.id } }, body: { ...form } }),
      ),
    )
  )
    sent.value = true
}
</script>

<template>
  <p v-if="sent" class="settled" role="status">✓ You asked for it. The answer comes to {{ form.mail }}.</p>
  <button v-else-if="!open" class="link" @click="open = true">Ask for it</button>
  <form v-else class="panel block ask" @submit.prevent="ask">
    <label :for="`n-${document.id}`">Your name</label><el-input :id="`n-${document.id}`" v-model="form.name" />
    <label :for="`o-${document.id}`">For whom</label><el-input :id="`o-${document.id}`" v-model="form.organisation" />
    <label :for="`m-${document.id}`">Mail address</label
    ><el-input :id="`m-${document.id}`" v-model="form.mail" type="email" /> <label :for="`r-${document.id}`">Why</label
    ><el-input :id="`r-${document.id}`" v-model="form.reason" type="textarea" :rows="2" /> <span /><span
      ><el-button type="primary" native-type="submit" :loading="busy">Ask for it</el-button>
      <button type="button" class="link" @click="open = false">Leave it</button></span
    >
    <p class="small quiet wide">Your name stands on every page of the copy.</p>
    <p v-if="problem" class="problem wide" role="alert">{{ problem.message }}</p>
  </form>
</template>

<style scoped>
.ask {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 8px;
  max-width: 480px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
