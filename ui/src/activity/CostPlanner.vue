<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive } from 'vue'
import { api, take } from '@/shared/api/client'
import { bytes, count } from '@/shared/format'

/** What keeping a log costs, month by month, under two plans, and the volume at which they cost the same. */
const form = reactive({
  eventsADay: 200_000,
  bytesAnEvent: 90,
  months: 24,
  plans: [
    { name: 'First plan', fixed: 40, taken: 0.5, stored: 0.03, includedMonths: 0 },
    { name: 'Second plan', fixed: 0, taken: 2.5, stored: 0.1, includedMonths: 3 },
  ],
})
const asked = refDebounced(
  computed(() => JSON.parse(JSON.stringify(form)) as typeof form),
  200,
)
const { data, error } = useQuery({
  queryKey: computed(() => ['channels', 'costs', asked.value]),
  queryFn: () => take(api.POST('/api/channels/costs', { body: asked.value })),
  placeholderData: keepPreviousData,
})
const gigabyte = 1_000_000_000
const top = computed(() => Math.max(0.0001, ...(data.value?.volumes.flatMap((v) => v.costs) ?? [])))
const most = computed(() => data.value?.volumes.at(-1)?.eventsADay || 1)
const x = (eventsADay: number) => (eventsADay / most.value) * 600
const line = (plan: number) =>
  (data.value?.volumes ?? []).map((v) => `${x(v.eventsADay)},${150 - (v.costs[plan]! / top.value) * 140}`).join(' ')
const prices = [
  { key: 'fixed', label: 'a month' },
  { key: 'taken', label: 'a GB taken in' },
  { key: 'stored', label: 'a GB stored, a month' },
  { key: 'includedMonths', label: 'first months included' },
] as const
</script>

<template>
  <section class="panel block" aria-label="Plan the cost">
    <h2>What keeping a log costs</h2>
    <div class="grid">
      <label>Events a day <el-input-number v-model="form.eventsADay" :min="1" :controls="false" /></label>
      <label>Bytes an event, sealed <el-input-number v-model="form.bytesAnEvent" :min="1" :controls="false" /></label>
      <label>Kept for months <el-input-number v-model="form.months" :min="1" :max="240" :controls="false" /></label>
    </div>
    <div v-for="(p, i) in form.plans" :key="i" class="grid plan" :class="{ second: i }">
      <strong>{{ p.name }}</strong>
      <label v-for="price in prices" :key="price.key"
        >{{ price.label }} <el-input-number v-model="p[price.key]" :min="0" :controls="false"
      /></label>
    </div>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <svg viewBox="0 0 600 172" role="img" aria-label="Cost of a month under both plans, by events a day">
        <line v-if="data.evenEventsADay" :x1="x(data.evenEventsADay)" :x2="x(data.evenEventsADay)" y1="0" y2="150" />
        <line :x1="x(form.eventsADay)" :x2="x(form.eventsADay)" y1="0" y2="150" class="now" />
        <polyline :points="line(0)" />
        <polyline class="second" :points="line(1)" />
        <text x="2" y="166">0</text>
        <text v-if="data.evenEventsADay" :x="x(data.evenEventsADay)" y="166" text-anchor="middle">
          equal at {{ count(Math.round(data.evenEventsADay)) }} a day
        </text>
        <text x="598" y="166" text-anchor="end">{{ count(Math.round(most)) }} events a day</text>
      </svg>
      <p>
        Storage settles at {{ bytes(data.settlesAt * gigabyte) }}.
        <template v-if="data.evenEventsADay"
          >Once it has, both plans cost the same at {{ count(Math.round(data.evenEventsADay)) }} events a day.</template
        >
        <template v-else>Once it has, one plan costs less at every volume.</template>
      </p>
      <details>
        <summary class="small">Month by month</summary>
        <table class="sheet">
          <thead>
            <tr>
              <th class="num">Month</th>
              <th class="num">Stored</th>
              <th v-for="p in form.plans" :key="p.name" class="num">{{ p.name }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in data.months" :key="m.month">
              <td class="num">{{ m.month }}</td>
              <td class="num">{{ bytes(m.gigabytes * gigabyte) }}</td>
              <td v-for="(c, i) in m.costs" :key="i" class="num">{{ c.toFixed(2) }}</td>
            </tr>
          </tbody>
        </table>
      </details>
    </template>
  </section>
</template>

<style scoped>
.grid {
  display: flex;
  gap: 20px;
  flex-wrap: wrap;
  align-items: center;
  font-size: 13.5px;
}
.grid .el-input-number {
  width: 100px;
}
.plan {
  border-left: 3px solid var(--sea);
  padding-left: 10px;
}
.plan.second {
  border-color: var(--copper);
}
svg {
  width: 100%;
  max-width: 720px;
  background: var(--sheet-2);
  border: 1px solid var(--line);
}
text {
  font: 11px var(--sans);
  fill: var(--ink-2);
}
svg line {
  stroke: var(--ink-3);
  stroke-dasharray: 4 3;
}
svg line.now {
  stroke-dasharray: none;
  stroke: var(--line-2);
}
polyline {
  fill: none;
  stroke: var(--sea);
  stroke-width: 2;
}
polyline.second {
  stroke: var(--copper);
}
</style>
