<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, moment, plural } from '@/shared/format'
import PlacesMap from './PlacesMap.vue'
import SignInCodes from './SignInCodes.vue'
import { searchFor, useSpan } from './span'
import SpanPicker from './SpanPicker.vue'

const { days, params } = useSpan('30')
const { data, error } = useQuery({
  queryKey: computed(() => ['sign-ins', params.value]),
  queryFn: () => take(api.GET('/api/activity/sign-ins', { params: { query: params.value } })),
  placeholderData: keepPreviousData,
})
const all = computed(() => (data.value ? data.value.success + data.value.failure + data.value.interrupted : 0))
type Rated = Pick<Schemas['ApplicationRate'], 'success' | 'failure' | 'interrupted'>
const rate = (r: Rated) => {
  const sum = r.success + r.failure + r.interrupted
  return sum ? `${((100 * r.success) / sum).toFixed(1)} %` : '–'
}
/** The share of each day that succeeded, as a line of 120 by 24. */
const line = (a: Schemas['ApplicationRate']) =>
  a.days
    .map((d, i) => {
      const sum = d.success + d.failure + d.interrupted || 1
      return `${a.days.length > 1 ? (i * 120) / (a.days.length - 1) : 60},${23 - (22 * d.success) / sum}`
    })
    .join(' ')
</script>

<template>
  <main class="page">
    <header>
      <h1>Sign-ins</h1>
      <span v-if="data" class="quiet"
        >{{ plural(all, 'attempt') }}: {{ count(data.success) }} succeeded,
        <RouterLink :to="searchFor('action == sign-in and outcome == failure', days)"
          >{{ count(data.failure) }} failed</RouterLink
        >,
        <RouterLink :to="searchFor('action == sign-in and outcome == interrupted', days)"
          >{{ count(data.interrupted) }} interrupted</RouterLink
        ></span
      >
      <SpanPicker v-model="days" class="right" />
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <section v-if="data.campaigns.length" class="panel block campaigns" aria-label="Sustained attempts">
        <h2>Sustained attempts</h2>
        <p class="quiet small">
          Accounts whose sign-in failed from four or more addresses outside the named networks: guessing that takes its
          time.
        </p>
        <table class="sheet">
          <thead>
            <tr>
              <th>Account</th>
              <th class="num">Attempts</th>
              <th class="num">Addresses</th>
              <th>First</th>
              <th>Last</th>
              <th>Got in</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in data.campaigns" :key="c.actor">
              <td>
                <RouterLink :to="searchFor(c.query, 'all')">{{ c.actor }}</RouterLink>
              </td>
              <td class="num">{{ count(c.attempts) }}</td>
              <td class="num">{{ count(c.addresses) }}</td>
              <td>{{ moment(c.first) }}</td>
              <td>{{ moment(c.last) }}</td>
              <td :class="{ in: c.succeeded }">
                {{ c.succeeded ? '▲ from one of the addresses' : 'not from these addresses' }}
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <div class="two">
        <section class="panel block" aria-label="By application">
          <h2>By application</h2>
          <table class="sheet">
            <thead>
              <tr>
                <th>Application</th>
                <th class="num">Succeeded</th>
                <th>Day by day</th>
                <th class="num">Failed</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="a in data.applications" :key="a.application">
                <td>
                  <RouterLink :to="searchFor(a.query, days)">{{ a.application }}</RouterLink>
                </td>
                <td class="num">{{ rate(a) }}</td>
                <td>
                  <svg width="120" height="24" role="img" :aria-label="`Success of ${a.application} day by day`">
                    <line x1="0" y1="23.5" x2="120" y2="23.5" />
                    <polyline :points="line(a)" />
                  </svg>
                </td>
                <td class="num">
                  <RouterLink :to="searchFor(`${a.query} and outcome == failure`, days)">{{
                    count(a.failure)
                  }}</RouterLink>
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <SignInCodes :codes="data.codes" :days="days" />
      </div>
      <section class="panel block" aria-label="Places">
        <h2>From where</h2>
        <div class="places">
          <PlacesMap :places="data.places" />
          <table class="sheet">
            <thead>
              <tr>
                <th>Place</th>
                <th>Country</th>
                <th class="num">Succeeded</th>
                <th class="num">Failed</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="p in data.places" :key="p.place + p.country">
                <td>
                  <RouterLink :to="searchFor(p.query, days)">{{ p.place }}</RouterLink>
                </td>
                <td>{{ p.country }}</td>
                <td class="num">{{ count(p.success) }}</td>
                <td class="num">{{ count(p.failure) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 16px;
  align-content: start;
}
header {
  display: flex;
  gap: 16px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 16px;
  align-items: start;
}
.places {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(380px, 1fr));
  gap: 20px;
  align-items: start;
}
.in {
  color: var(--copper);
  font-weight: 600;
}
polyline {
  fill: none;
  stroke: var(--sea);
  stroke-width: 1.5;
}
line {
  stroke: var(--line);
}
</style>
