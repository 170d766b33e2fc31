<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { actionWords } from './words'

/** What is kept of a thread: pinned events, which can be frozen, handed over and attached to a matter. */
const { investigation, chosen } = defineProps<{ investigation: Schemas['InvestigationView']; chosen: boolean }>()
const emit = defineEmits<{ choose: []; go: [event: number] }>()
const id = computed(() => investigation.id)
const { act, busy, problem } = useAct(['investigations'])
/** Nothing changes in what is frozen, nor in another person's. */
const changes = computed(() => investigation.mine && !investigation.frozenAt)
const matters = useQuery({
  queryKey: ['matters'],
  queryFn: () => take(api.GET('/api/matters')),
  enabled: computed(() => chosen && may('openMatters')),
})
/** What is written beside each event; kept when the field is left. */
const notes = ref<Record<number, string>>({})
watch(
  () => investigation.events,
  (events) => (notes.value = Object.fromEntries(events.map((e) => [e.eventId, e.note]))),
  { immediate: true },
)
type Pinned = { actor?: string; action?: string; object?: string }
const says = (e: Schemas['PinnedEvent']) => {
  const event = e.event as Pinned
  return `${event.actor ?? 'Somebody'} ${actionWords(event.action)} ${event.object ?? ''}`
}
const freeze = () =>
  act(() => take(api.POST('/api/investigations/{id}/freezing', { params: { path: { id: id.value } } })))
const attach = (matterId: number) =>
  act(() =>
    take(api.POST('/api/investigations/{id}/matter', { params: { path: { id: id.value } }, body: { matterId } })),
  )
const annotate = (eventId: number, note: string) =>
  act(() =>
    take(api.POST('/api/investigations/{id}/events', { params: { path: { id: id.value } }, body: { eventId, note } })),
  )
const unpin = (eventId: number) =>
  act(() =>
    take(api.DELETE('/api/investigations/{id}/events/{eventId}', { params: { path: { id: id.value, eventId } } })),
  )
</script>

<template>
  <section class="panel card" :class="{ chosen }" :aria-label="investigation.name">
    <header>
      <button class="name" :aria-expanded="chosen" @click="emit('choose')">{{ investigation.name }}</button>
      <span class="small quiet"
        ><template v-if="!investigation.mine">{{ investigation.by }}, </template
        >{{ plural(investigation.events.length, 'event') }}{{ investigation.frozenAt ? ', frozen' : '' }}</span
      >
    </header>
    <template v-if="chosen">
      <p v-if="investigation.summary" class="small">{{ investigation.summary }}</p>
      <ol>
        <li v-for="e in investigation.events" :key="e.eventId">
          <button class="link small" @click="emit('go', e.eventId)">{{ moment(e.time) }}</button>
          {{ says(e) }}
          <button v-if="changes" class="link small" @click="unpin(e.eventId)">Unpin</button>
          <em v-if="!changes && e.note">“{{ e.note }}”</em>
          <el-input
            v-else-if="changes"
            v-model="notes[e.eventId]"
            size="small"
            placeholder="What it shows"
            :aria-label="`Note on ${says(e)}`"
            @change="annotate(e.eventId, $event)"
          />
        </li>
      </ol>
      <p v-if="investigation.events.length === 0" class="small quiet">Nothing pinned yet.</p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p class="acts-row">
        <el-button v-if="changes" size="small" :loading="busy" @click="freeze"
          >Freeze {{ plural(investigation.events.length, 'event') }}</el-button
        >
        <a class="small" :href="`/api/investigations/${id}/file`" download>Save the file with proofs</a>
        <el-dropdown v-if="investigation.mine && matters.data.value?.length" trigger="click" @command="attach"
          ><button class="link small">
            {{ investigation.matterId ? 'Attached to a matter' : 'Attach to a matter' }} ▾
          </button>
          <template #dropdown
            ><el-dropdown-menu
              ><el-dropdown-item v-for="m in matters.data.value" :key="m.id" :command="m.id">{{
                m.name
              }}</el-dropdown-item></el-dropdown-menu
            ></template
          >
        </el-dropdown>
      </p>
    </template>
  </section>
</template>

<style scoped>
.card {
  padding: 8px 12px;
  display: grid;
  gap: 6px;
}
.chosen {
  border-color: var(--sea);
}
header {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: baseline;
}
.name {
  all: unset;
  font-weight: 600;
  cursor: pointer;
}
.name:focus-visible {
  outline: 2px solid var(--focus);
}
p {
  margin: 0;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 13px;
  display: grid;
  gap: 4px;
}
</style>
