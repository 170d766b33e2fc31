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
const top = computed(() => Math.max(0.0001, ...(data.value?.months.flatMap((m) => m.costs) ?? [])))
const line = (plan: number) =>
  (data.value?.months ?? [])
    .map((m, i, all) => `${(i / Math.max(1, all.length - 1)) * 600},${150 - (m.costs[plan]! / top.value) * 140}`)
    .join(' ')
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
      <label v-for="x in prices" :key="x.key"
        >{{ x.label }} <el-input-number v-model="p[x.key]" :min="0" :controls="false"
      /></label>
    </div>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <svg viewBox="0 0 600 160" role="img" aria-label="Cost a month under both plans">
        <polyline :points="line(0)" />
        <polyline class="second" :points="line(1)" />
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
polyline {
  fill: none;
  stroke: var(--sea);
  stroke-width: 2;
}
polyline.second {
  stroke: var(--copper);
}
</style>
