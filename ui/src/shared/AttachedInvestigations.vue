<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'

/** The investigations that an alert or a finding rests on, and the choice of one's own to attach. */
const { attached, frozenOnly, busy, file } = defineProps<{
  attached: readonly Schemas['AttachedInvestigation'][]
  /** Only those that change no more are offered. */
  frozenOnly?: boolean
  busy?: boolean
  /** Where the file of one lies. */
  file: (id: number) => string
  /** Nothing more is attached here. */
  closed?: boolean
}>()
const emit = defineEmits<{ attach: [investigation: number] }>()
const own = useQuery({
  queryKey: ['investigations'],
  queryFn: () => take(api.GET('/api/investigations')),
  enabled: () => may('readActivity'),
})
const choices = computed(() =>
  (own.data.value ?? []).filter((i) => i.mine && (!frozenOnly || i.frozenAt) && !attached.some((a) => a.id === i.id)),
)
const opens = computed(() => new Set(own.data.value?.map((i) => i.id)))
</script>

<template>
  <ul v-if="attached.length" aria-label="Investigations">
    <li v-for="i in attached" :key="i.id" class="small">
      <RouterLink v-if="opens.has(i.id)" :to="`/activity/thread?investigation=${i.id}`">{{ i.name }}</RouterLink><strong
        v-else
        >{{ i.name }}</strong
      >
      <span class="quiet">
        · {{ i.by }}, {{ plural(i.events, 'event') }}{{ i.frozenAt ? ', frozen' : '' }} ·
        <a :href="file(i.id)" download>the file with proofs</a
        ><template v-if="i.hash">
          · <span class="hash">SHA-256 {{ i.hash.slice(0, 12) }}…</span></template
        ></span
      >
    </li>
  </ul>
  <el-dropdown v-if="choices.length && !closed" trigger="click" @command="emit('attach', $event)">
    <button class="link small" :disabled="busy">Attach an investigation ▾</button>
    <template #dropdown
      ><el-dropdown-menu
        ><el-dropdown-item v-for="i in choices" :key="i.id" :command="i.id">{{
          i.name
        }}</el-dropdown-item></el-dropdown-menu
      ></template
    >
  </el-dropdown>
</template>

<style scoped>
ul {
  margin: 4px 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 2px;
}
</style>
