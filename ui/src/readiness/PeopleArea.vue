<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { today } from '@/shared/session'
import ChartBranch from './ChartBranch.vue'

/** Who there is, who leaves and what is left to take back from them, and who reports to whom. */
const { data, error } = useQuery({ queryKey: ['areas', 'people'], queryFn: () => take(api.GET('/api/areas/people')) })
const people = computed(() => new Map((data.value?.chart ?? []).map((p) => [p.mail, p])))
const open = computed(() => (data.value?.leavers ?? []).filter((l) => l.steps.length && l.on <= today.value).length)
const onlyOpen = ref(false)
const leavers = computed(() => (data.value?.leavers ?? []).filter((l) => !onlyOpen.value || l.steps.length))
const most = computed(() => Math.max(1, ...(data.value?.units ?? []).map((u) => u.people + u.guests)))
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <template v-else-if="data">
    <p>
      <RouterLink to="/access/people"
        ><strong>{{ plural(data.inScope, 'person', 'people') }}</strong></RouterLink
      >
      in scope, {{ plural(data.guests, 'guest') }}, {{ plural(data.services, 'service account') }}.
    </p>
    <div class="two">
      <section class="panel block" aria-label="People by unit">
        <h2>By unit</h2>
        <table class="units">
          <tbody>
            <tr v-for="u in data.units" :key="u.unit">
              <th scope="row">
                <RouterLink :to="{ path: '/access/people', query: { words: u.unit } }">{{ u.unit }}</RouterLink>
              </th>
              <td class="wide">
                <i class="bar" :style="{ width: `${(100 * u.people) / most}%` }" aria-hidden="true" />
              </td>
              <td class="num">{{ u.people }}</td>
              <td class="small quiet">{{ u.guests ? plural(u.guests, 'guest') : '' }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="panel block" aria-label="Who reports to whom">
        <h2>Who reports to whom</h2>
        <p v-if="data.top.length === 0" class="quiet small">The directory names no managers.</p>
        <ul class="tree">
          <ChartBranch v-for="m in data.top" :key="m" :mail="m" :people="people" :depth="0" />
        </ul>
      </section>
    </div>
    <section v-if="data.joiners.length" class="panel block" aria-label="Joiners">
      <h2>Joiners</h2>
      <table class="sheet">
        <thead>
          <tr>
            <th>Person</th>
            <th>Unit</th>
            <th>Joins</th>
            <th>Still to do</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="j in data.joiners" :key="j.mail">
            <td>
              <RouterLink :to="`/access?person=${encodeURIComponent(j.mail)}`">{{ j.name }}</RouterLink>
            </td>
            <td>{{ j.unit }}</td>
            <td>{{ j.on <= today ? 'joined' : 'joins' }} {{ day(j.on) }}</td>
            <td :class="{ lacking: j.late }">
              <template v-if="j.steps.length">{{ j.late ? '▲ ' : '' }}{{ j.steps.join(' ') }}</template
              ><span v-else class="quiet">✓ nothing</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section class="panel block" aria-label="Leavers">
      <h2 class="head">
        Leavers
        <span class="small" :class="{ lacking: open }">{{
          open ? `▲ ${open} have left and still have something` : '✓ nothing is left to take back'
        }}</span>
        <label class="small right"><input v-model="onlyOpen" type="checkbox" /> only with steps left</label>
      </h2>
      <p v-if="leavers.length === 0" class="quiet small">
        Nobody leaves within ninety days, or has left and still has something.
      </p>
      <table v-else class="sheet">
        <thead>
          <tr>
            <th>Person</th>
            <th>Unit</th>
            <th>Leaves</th>
            <th>Left to take back</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in leavers" :key="l.mail">
            <td>
              <RouterLink :to="`/access?person=${encodeURIComponent(l.mail)}`">{{ l.name }}</RouterLink>
            </td>
            <td>{{ l.unit }}</td>
            <td>{{ l.on <= today ? 'left' : 'leaves' }} {{ day(l.on) }}</td>
            <td :class="{ lacking: l.steps.length && l.on <= today }">
              <template v-if="l.steps.length">{{ l.on <= today ? '▲ ' : '' }}{{ l.steps.join(' ') }}</template
              ><span v-else class="quiet">✓ nothing</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </template>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(340px, 1fr));
  gap: 12px;
  align-items: start;
}
h2 {
  font-size: 15px;
  margin: 0 0 8px;
}
.head {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
.head .small {
  font: 400 13px var(--sans);
}
.right {
  margin-left: auto;
}
.units {
  width: 100%;
}
.units th {
  text-align: left;
  font-weight: 400;
  white-space: nowrap;
  padding-right: 12px;
}
.units td {
  padding: 2px 6px;
}
.wide {
  width: 60%;
}
.bar {
  display: block;
  height: 8px;
  background: var(--sea);
}
.tree {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 300px;
  overflow: auto;
}
</style>
