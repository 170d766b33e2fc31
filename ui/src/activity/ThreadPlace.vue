<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { keepTyped } from '@/shared/typed'
import { useUrl } from '@/shared/url'
import InvestigationCard from './InvestigationCard.vue'
import { useInvestigations } from './span'
import ThreadLine from './ThreadLine.vue'

const { number, text } = useUrl()
const event = number('event')
const along = computed({
  get: () => (text('along').value || 'actor,address').split(','),
  set: (a: string[]) => (text('along').value = a.join(',')),
})
const hours = computed({
  get: () => Number(text('hours').value || 6),
  set: (h: number) => (text('hours').value = String(h)),
})
const ways = [
  { value: 'actor', label: 'the person' },
  { value: 'address', label: 'the address' },
  { value: 'device', label: 'the device' },
  { value: 'object', label: 'the object' },
]
const thread = useQuery({
  queryKey: computed(() => ['events', 'thread', event.value, along.value, hours.value]),
  queryFn: () =>
    take(
      api.GET('/api/events/{id}/thread', {
        params: { path: { id: event.value! }, query: { along: along.value.join(','), hours: hours.value } },
      }),
    ),
  enabled: computed(() => !!event.value && along.value.length > 0),
  placeholderData: keepPreviousData,
})
const investigations = useInvestigations()
/** In the address, so that a matter leads to its own. */
const chosen = number('investigation')
const target = computed(
  () =>
    investigations.data.value?.find((i) => i.id === chosen.value) ??
    investigations.data.value?.find((i) => i.mine && !i.frozenAt) ??
    investigations.data.value?.[0] ??
    null,
)
const pinned = computed(() => new Set(target.value?.events.map((e) => e.eventId)))
const form = reactive({ name: '', summary: '' })
const saved = keepTyped('investigation.new', form)
const { act, busy, problem } = useAct(['investigations'])
const open = () =>
  act(async () => {
    await take(api.POST('/api/investigations', { body: { ...form } }))
    saved()
    Object.assign(form, { name: '', summary: '' })
  })
const pin = (eventId: number) =>
  act(() =>
    take(
      api.POST('/api/investigations/{id}/events', {
        params: { path: { id: target.value!.id } },
        body: { eventId, note: '' },
      }),
    ),
  )
</script>

<template>
  <main class="page">
    <section class="thread">
      <header>
        <h1>Thread</h1>
        <span v-if="event" class="quiet">follow</span>
        <el-checkbox-group v-if="event" v-model="along" size="small" aria-label="Along what"
          ><el-checkbox-button v-for="w in ways" :key="w.value" :value="w.value">{{ w.label }}</el-checkbox-button>
        </el-checkbox-group>
        <el-select v-if="event" v-model="hours" size="small" class="hours" aria-label="How far"
          ><el-option v-for="h in [1, 6, 24, 72, 168, 720]" :key="h" :value="h" :label="`± ${plural(h, 'hour')}`"
        /></el-select>
      </header>
      <p v-if="thread.error.value" class="problem" role="alert">{{ thread.error.value.message }}</p>
      <section v-if="!event" class="empty">
        <h2>A thread begins at an event</h2>
        <p class="quiet">
          Open an event under <RouterLink to="/activity/search">Search</RouterLink> and press
          <em>Follow the thread</em>: what the same person did, what came from the same address, what happened on the
          same device and object.
        </p>
      </section>
      <ol v-else>
        <ThreadLine
          v-for="e in thread.data.value ?? []"
          :key="e.id"
          :event="e"
          :here="e.id === event"
          :pinned="pinned.has(e.id)"
          :can-pin="!!target?.mine && !target.frozenAt"
          @go="event = e.id"
          @pin="pin(e.id)"
        />
      </ol>
    </section>
    <aside aria-label="Investigations">
      <h2>Investigations</h2>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <InvestigationCard
        v-for="i in investigations.data.value ?? []"
        :key="i.id"
        :investigation="i"
        :chosen="i.id === target?.id"
        @choose="chosen = i.id"
        @go="event = $event"
      />
      <form class="fields panel block" @submit.prevent="open">
        <label class="label" for="i-name">Open an investigation</label
        ><el-input id="i-name" v-model="form.name" placeholder="Deletions after the collision" />
        <label class="label" for="i-summary">What it asks</label
        ><el-input id="i-summary" v-model="form.summary" type="textarea" :rows="2" />
        <el-button native-type="submit" :loading="busy" :disabled="!form.name.trim()">Open it</el-button>
      </form>
    </aside>
  </main>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 360px;
  height: 100%;
  min-height: 0;
}
.thread,
aside {
  overflow: auto;
  padding: 16px 20px 32px;
}
aside {
  border-left: 1px solid var(--line);
  background: var(--sheet);
  display: grid;
  gap: 10px;
  align-content: start;
}
header {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 12px;
}
h1 {
  font-size: 20px;
}
aside h2 {
  font-size: 16px;
}
.hours {
  width: 130px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.empty {
  max-width: 560px;
}
@media (max-width: 900px) {
  .page {
    grid-template-columns: 1fr;
    overflow: auto;
  }
}
</style>
