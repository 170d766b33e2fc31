<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { day, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import BacktestPanel from './BacktestPanel.vue'
import WatchSentence from './WatchSentence.vue'
import { useWatchKinds } from './watchKinds'
import { kindOf, type Settings } from './watchWords'

/** One watch: its sentence, its switch, and what it would have raised. */
const { view, draft } = defineProps<{ view?: Schemas['WatchView']; draft?: Settings }>()
const emit = defineEmits<{ made: [name: string]; close: [] }>()
const was = computed(() => view?.settings ?? draft!)
const form = ref<Settings>({ ...was.value, rule: { ...was.value.rule } })
watch(was, (s) => (form.value = { ...s, rule: { ...s.rule } }))
const changed = computed(() => !view || JSON.stringify(form.value) !== JSON.stringify(was.value))
const { act, busy, problem } = useAct(['watches'])
const back = ref(false)

async function save() {
  const done = await act(() =>
    view
      ? take(
          api.PUT('/api/watches/{id}', {
            params: { path: { id: view.id } },
            ...ifMatch(view.revision),
            body: form.value,
          }),
        )
      : take(api.POST('/api/watches', { body: form.value })),
  )
  if (done && !view) emit('made', form.value.name.trim())
}
const on = () =>
  act(() =>
    take(
      api.POST('/api/watches/{id}/on', {
        params: { path: { id: view!.id } },
        body: { since: back.value ? new Date(Date.now() - 90 * 86_400_000).toISOString() : null },
      }),
    ),
  )
const off = () => act(() => take(api.POST('/api/watches/{id}/off', { params: { path: { id: view!.id } } })))
const remove = async () => {
  if (await act(() => take(api.DELETE('/api/watches/{id}', { params: { path: { id: view!.id } } })))) emit('close')
}
const kinds = useWatchKinds()
const moves = computed(() => kindOf(kinds.value, form.value.rule)?.moves)
const threshold = (t: number) => (form.value = { ...form.value, rule: { ...form.value.rule, [moves.value!]: t } })
</script>

<template>
  <article class="watch">
    <header>
      <label class="sr" for="watch-name">Name</label>
      <el-input v-if="may('manageWatches')" id="watch-name" v-model="form.name" class="name" />
      <h1 v-else>{{ form.name }}</h1>
      <span v-if="view" :class="{ on: view.on }" class="state">{{ view.on ? '● on' : '○ off' }}</span>
    </header>
    <WatchSentence :settings="form" :editable="may('manageWatches')" @change="form = $event" />
    <template v-if="may('manageWatches')">
      <label class="label" for="watch-words">Own words, for the message</label>
      <el-input id="watch-words" v-model="form.words" type="textarea" :rows="2" />
      <p class="acts-row">
        <el-button type="primary" :disabled="!changed" :loading="busy" @click="save">{{
          view ? 'Change the watch' : 'Make the watch'
        }}</el-button>
        <template v-if="view">
          <el-button v-if="!view.on" :disabled="changed" :loading="busy" @click="on">{{
            back ? 'Switch it on for the last 90 days too' : 'Switch it on from now'
          }}</el-button>
          <el-checkbox v-if="!view.on" v-model="back">alert to the last 90 days too</el-checkbox>
          <el-button v-if="view.on" :loading="busy" @click="off">Switch it off</el-button>
          <el-button v-if="!view.on && view.quarter === 0" :loading="busy" @click="remove">Remove it</el-button>
        </template>
      </p>
    </template>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <p v-if="view" class="small quiet">
      {{ view.on ? `On for what happened since ${day(view.since.slice(0, 10))}.` : 'Off: it raises nothing.' }}
      <RouterLink :to="`/activity/alerts?watch=${view.id}&state=all`"
        >{{ plural(view.quarter, 'alert') }} in 90 days</RouterLink
      >, {{ view.week }} in the last seven.
      <template v-if="view.lastAlertAt">The last one is of {{ moment(view.lastAlertAt) }}.</template>
    </p>
    <BacktestPanel :rule="form.rule" :movable="!!moves" @threshold="threshold" />
  </article>
</template>

<style scoped>
.watch {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}
header {
  display: flex;
  gap: 12px;
  align-items: center;
}
h1 {
  font-size: 20px;
}
.name {
  max-width: 420px;
  font-size: 16px;
}
.state {
  color: var(--ink-3);
  white-space: nowrap;
}
.state.on {
  color: var(--sea);
}
p {
  margin: 0;
}
</style>
