<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { may } from '@/shared/session'

/** What follows when a list has a new line: a ticket at the connected addresses, a message, or nothing. */
const { list } = defineProps<{ list: string }>()
const path = computed(() => ({ params: { path: { name: list } } }))
const news = useQuery({
  queryKey: computed(() => ['mend', list, 'news']),
  queryFn: () => take(api.GET('/api/access/lists/{name}/news', path.value)),
})
const form = reactive({ tickets: false, recipients: '' })
const open = ref(false)
const { act, busy, problem } = useAct(['directory'])
watch(
  () => [list, news.data.value] as const,
  () => {
    open.value = false
    form.tickets = news.data.value?.tickets ?? false
    form.recipients = news.data.value?.recipients.join(', ') ?? ''
  },
  { immediate: true },
)
const says = computed(() => {
  const n = news.data.value
  if (!n || (!n.tickets && n.recipients.length === 0)) return 'Nobody is informed of new lines.'
  const parts = [n.tickets && 'opens a ticket', n.recipients.length && `informs ${n.recipients.join(', ')}`]
  return `Each new line ${parts.filter(Boolean).join(' and ')}.`
})
const save = () =>
  act(() =>
    take(
      api.PUT('/api/access/lists/{name}/news', {
        ...path.value,
        body: {
          tickets: form.tickets,
          recipients: form.recipients
            .split(',')
            .map((r) => r.trim())
            .filter(Boolean),
        },
      }),
    ),
  )
</script>

<template>
  <div class="small">
    <p class="quiet">
      {{ says }}
      <button v-if="may('manageAccess') && !open" class="link" @click="open = true">Change</button>
    </p>
    <form v-if="open" class="row" @submit.prevent="save">
      <el-checkbox v-model="form.tickets" size="small">open a ticket at the connected addresses</el-checkbox>
      <el-input v-model="form.recipients" size="small" placeholder="Mail addresses" aria-label="Who is informed" />
      <el-button size="small" type="primary" native-type="submit" :loading="busy">Keep it</el-button>
      <button type="button" class="link" @click="open = false">Leave it</button>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </div>
</template>

<style scoped>
p {
  margin: 0;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
.row .el-input {
  width: 300px;
}
</style>
