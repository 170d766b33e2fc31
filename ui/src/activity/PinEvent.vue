<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { useInvestigations } from './span'

/** Pins an event to an investigation of one's own. */
const { eventId } = defineProps<{ eventId: number }>()
const all = useInvestigations()
const open = computed(() => all.data.value?.filter((i) => i.mine && !i.frozenAt) ?? [])
const { act, busy, problem } = useAct(['investigations'])
const done = ref('')

const pin = (id: number) =>
  act(async () => {
    await take(api.POST('/api/investigations/{id}/events', { params: { path: { id } }, body: { eventId, note: '' } }))
    done.value = open.value.find((i) => i.id === id)?.name ?? ''
  })
</script>

<template>
  <el-dropdown trigger="click" :disabled="open.length === 0" @command="pin">
    <el-button
      :loading="busy"
      :disabled="open.length === 0"
      :title="open.length ? '' : 'Open an investigation first, under Threads'"
      >Pin to an investigation ▾</el-button
    >
    <template #dropdown
      ><el-dropdown-menu
        ><el-dropdown-item v-for="i in open" :key="i.id" :command="i.id">{{
          i.name
        }}</el-dropdown-item></el-dropdown-menu
      ></template
    >
  </el-dropdown>
  <span v-if="done" class="small" role="status">Pinned to {{ done }}.</span>
  <span v-if="problem" class="problem" role="alert">{{ problem.message }}</span>
</template>
