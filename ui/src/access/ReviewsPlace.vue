<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'
import { may, today } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import ReviewPane from './ReviewPane.vue'
import ReviewsChart from './ReviewsChart.vue'

const { number } = useUrl()
const open = number('review')
const { data, error } = useQuery({ queryKey: ['reviews'], queryFn: () => take(api.GET('/api/reviews')) })
const shown = computed(() => data.value?.find((r) => r.id === open.value))
const draft = ref<Schemas['ReviewSettings'] | null>(null)
const begin = () => {
  open.value = null
  draft.value = {
    name: 'New review',
    groups: [],
    resources: [],
    people: 'everybody',
    inactiveDays: 30,
    reviewer: 'owner',
    named: [],
    deputy: '',
    days: 10,
    start: today.value,
    recurrence: '',
    reasonsRequired: false,
    silence: 'advice',
    applyItself: true,
    words: '',
    reminderWords: '',
    later: [],
    links: false,
  }
}
function choose(id: number) {
  draft.value = null
  open.value = id
}
const made = ref('')
watch([data, made], ([list, name]) => {
  const found = name && list?.find((r) => r.settings.name === name)
  if (found) {
    made.value = ''
    choose(found.id)
  }
})
const past = reactive({ from: '', to: '', decision: '', kind: '' })
const history = computed(() => {
  const asked = Object.entries(past).filter(([, value]) => value)
  return `/api/reviews/history.csv${asked.length ? `?${new URLSearchParams(asked)}` : ''}`
})
const stateMarks: Record<string, string> = {
  running: '● running',
  planned: '◇ planned',
  draft: '○ draft',
  ended: '✓ ended',
}
const share = (r: Schemas['ReviewView']) => {
  const last = r.rounds[0]
  return last?.lines ? Math.round(((last.lines - last.open) / last.lines) * 100) : 0
}
</script>

<template>
  <Workbench name="reviews" :subject="!!shown || !!draft" :list-width="460">
    <template #list>
      <div class="page">
        <header>
          <h1>Reviews</h1>
          <el-button v-if="may('manageAccess')" type="primary" class="right" @click="begin">Draft a review</el-button>
        </header>
        <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
        <section v-if="data?.length === 0 && !draft" class="panel block">
          <h2>Nobody is asked yet</h2>
          <p>
            A review asks those who know whether people still need what they reach. Draft one: you see whom it would
            ask, and about how much, before anybody gets a message.
          </p>
        </section>
        <ReviewsChart v-if="data && !open && !draft" :reviews="data" @choose="choose" />
        <table v-if="data?.length" class="sheet">
          <thead>
            <tr>
              <th>Review</th>
              <th>State</th>
              <th>Decided</th>
              <th v-if="!open && !draft">Ends or begins</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in data" :key="r.id" :class="{ open: r.id === open }">
              <td>
                <button class="link" @click="choose(r.id)">{{ r.settings.name }}</button>
                <div v-if="r.rounds[0]?.stamped.length || r.rounds[0]?.failed" class="small lacking">
                  ▲ {{ r.rounds[0].stamped.length ? 'somebody only stamped' : 'not everything was carried out' }}
                </div>
              </td>
              <td class="state">{{ stateMarks[r.state] ?? r.state }}</td>
              <td class="bar">
                <span v-if="r.rounds.length" class="track" role="img" :aria-label="`${share(r)} % decided`"
                  ><i :style="{ width: `${share(r)}%` }"
                /></span>
                <span v-if="r.rounds.length" class="small num">{{ share(r) }} %</span>
              </td>
              <td v-if="!open && !draft">
                {{
                  r.state === 'running'
                    ? day(r.rounds[0]!.endsOn)
                    : r.nextOn
                      ? day(r.nextOn)
                      : r.rounds[0]?.endedAt
                        ? day(r.rounds[0].endedAt.slice(0, 10))
                        : '–'
                }}
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="data?.length && !open && !draft" class="history small">
          Decisions from
          <input v-model="past.from" type="date" class="box" aria-label="Decisions from" />
          to <input v-model="past.to" type="date" class="box" aria-label="Decisions to" />,
          <select v-model="past.decision" class="box" aria-label="Which decisions">
            <option value="">kept and removed</option>
            <option value="keep">kept</option>
            <option value="remove">removed</option>
          </select>
          on
          <select v-model="past.kind" class="box" aria-label="On what">
            <option value="">everything</option>
            <option value="group">groups</option>
            <option value="place">places</option>
            <option value="application">applications</option>
          </select>
          <a :href="history" download>as CSV</a>
        </p>
      </div>
    </template>
    <template #subject>
      <ReviewPane v-if="draft" key="draft" :draft="draft" @made="(name) => (made = name)" />
      <ReviewPane v-else-if="shown" :key="shown.id" :view="shown" />
    </template>
  </Workbench>
</template>

<style scoped>
.page {
  padding: 14px 16px;
  display: grid;
  gap: 12px;
}
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.state {
  white-space: nowrap;
}
.bar {
  white-space: nowrap;
}
.history {
  margin: 4px 0 0;
}
.box {
  height: 26px;
}
.track {
  display: inline-block;
  width: 90px;
  height: 8px;
  background: var(--line);
  margin-right: 6px;
}
.track i {
  display: block;
  height: 8px;
  background: var(--sea);
}
</style>
