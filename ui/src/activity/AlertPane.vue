<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import AlertActs from './AlertActs.vue'
import AlertRisk from './AlertRisk.vue'
import AlertUses from './AlertUses.vue'
import BaselineChart from './BaselineChart.vue'
import { searchFor, term } from './span'
import { actionWords } from './words'
import { useWatchKinds } from './watchKinds'
import { ruleSentence, stateWords } from './watchWords'

/** One alert: why, how risky and why so, the events, what can be done, and what was. */
const { id } = defineProps<{ id: number }>()
const kinds = useWatchKinds()
const { data, error } = useQuery({
  queryKey: ['alert', id],
  queryFn: () => take(api.GET('/api/alerts/{id}', { params: { path: { id } } })),
})
const alert = computed(() => data.value?.alert)
const { act, busy, problem } = useAct(['watches', 'directory'])
const path = { params: { path: { id } } }
const reason = ref('')
const shown = ref(30)
const answer = (state: Schemas['AlertState']) =>
  act(() =>
    take(
      api.POST('/api/alerts/{id}/state', {
        ...path,
        ...ifMatch(alert.value!.revision),
        body: { state, reason: reason.value },
      }),
    ),
  )
const takeOver = () => act(() => take(api.POST('/api/alerts/{id}/owner', path)))
const learn = (useful: boolean) => act(() => take(api.POST('/api/alerts/{id}/feedback', { ...path, body: { useful } })))
const carry = (what: string) => act(() => take(api.POST('/api/alerts/{id}/acts', { ...path, body: { act: what } })))
const related = computed(() => {
  const a = alert.value
  if (!a) return []
  return [
    a.who && { words: `everything ${a.who} did`, to: searchFor(`actor == ${term(a.who)}`, '90') },
    a.address && { words: `everything from ${a.address}`, to: searchFor(`address == ${term(a.address)}`, '90') },
    a.object && { words: 'everything done to the object', to: searchFor(`object == ${term(a.object)}`, '90') },
    a.who && may('readAccess') && { words: `what ${a.who} reaches`, to: `/access?person=${encodeURIComponent(a.who)}` },
  ].filter((r) => !!r)
})
</script>

<template>
  <article v-if="data && alert" class="alert">
    <p class="small quiet">
      {{ moment(alert.at) }} · {{ stateWords[alert.state] }}<template v-if="alert.owner"> · {{ alert.owner }}</template>
    </p>
    <h1>{{ alert.watch }}: {{ alert.who ?? alert.address ?? 'the whole organisation' }}</h1>
    <p class="why">{{ alert.why }}</p>
    <p v-if="alert.reason" class="reason">“{{ alert.reason }}”</p>
    <section v-if="may('manageWatches') && data.possible.length" class="acts" aria-label="Suspend first, look after">
      <el-button
        v-for="p in data.possible"
        :key="p.act"
        :type="p.act === 'suspend' ? 'danger' : 'default'"
        plain
        :loading="busy"
        :title="p.says"
        @click="carry(p.act)"
        >{{ p.words[0]!.toUpperCase() + p.words.slice(1) }}</el-button
      >
    </section>
    <AlertActs v-if="data.acts.length" :alert="id" :acts="data.acts" />
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <section v-if="may('manageWatches')" aria-label="Answer" class="answer">
      <label class="sr" for="alert-reason">Reason</label>
      <el-input
        id="alert-reason"
        v-model="reason"
        placeholder="Why: a planned move, holiday cover, the account was used by somebody else …"
      />
      <el-button :loading="busy" @click="answer('expected')">It was expected</el-button>
      <el-button type="primary" :loading="busy" @click="answer('confirmed')">It is confirmed</el-button>
      <el-button v-if="alert.state === 'new'" :loading="busy" @click="takeOver">I look at it</el-button>
    </section>
    <AlertRisk :alert="alert" :factors="data.factors" :busy="busy" @learn="learn" />
    <BaselineChart v-if="data.baseline" :baseline="data.baseline" />
    <section v-if="data.case.length" aria-label="Case">
      <h2>Its case: {{ plural(data.case.length, 'more alert') }}</h2>
      <ul>
        <li v-for="c in data.case" :key="c.id">
          <RouterLink :to="{ query: { ...$route.query, alert: String(c.id) } }"
            >{{ moment(c.at) }} · {{ c.watch }} · {{ c.who }}</RouterLink
          >
          {{ ' ' }}<span class="quiet">risk {{ c.risk }}, {{ stateWords[c.state] }}</span>
        </li>
      </ul>
    </section>
    <section aria-label="Events">
      <h2>{{ plural(data.events.length, 'event') }} behind it</h2>
      <table class="sheet">
        <tbody>
          <tr v-for="e in data.events.slice(0, shown)" :key="e.id">
            <td class="when">
              <RouterLink :to="`/activity/search?days=all&event=${e.id}`">{{ moment(e.time) }}</RouterLink>
            </td>
            <td>
              {{ e.actor ?? '–' }} {{ actionWords(e.action) }} {{ e.object
              }}<span v-if="e.outcome === 'failure'" class="lacking"> ▲ failed</span>
            </td>
            <td class="small">{{ [e.address, e.place].filter(Boolean).join(' · ') }}</td>
          </tr>
        </tbody>
      </table>
      <ShowMore v-model="shown" :of="data.events.length" />
    </section>
    <section aria-label="Everything related">
      <h2>Everything related</h2>
      <ul>
        <li v-for="r in related" :key="r.words">
          <RouterLink :to="r.to">{{ r.words }}</RouterLink>
        </li>
      </ul>
    </section>
    <AlertUses :alert="alert" />
    <p class="small quiet">
      The watch:
      <RouterLink :to="`/activity/watches?watch=${data.watch.id}`">{{
        ruleSentence(kinds, data.watch.settings.rule)
      }}</RouterLink>.
    </p>
  </article>
  <p v-else-if="error" class="problem" role="alert">{{ error.message }}</p>
</template>

<style scoped>
.alert {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}
h1 {
  font-size: 20px;
  overflow-wrap: anywhere;
}
h2 {
  font-size: 15px;
  margin: 0 0 4px;
}
p,
ul {
  margin: 0;
}
ul {
  padding-left: 18px;
}
li {
  min-height: 26px;
}
.why {
  font: 400 17px/1.5 var(--serif);
}
.reason {
  border-left: 3px solid var(--sea);
  padding-left: 10px;
}
.acts,
.answer {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.answer .el-input {
  flex: 1 1 100%;
}
.el-button {
  margin: 0;
}
.when {
  white-space: nowrap;
}
</style>
