<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'
import { percent } from './words'

/** Readiness by day, with today's forecast at its end; each step can be opened for what moved it. */
const { points, forecast = [] } = defineProps<{
  points: readonly Schemas['ReadinessPoint'][]
  forecast?: readonly Schemas['ReadinessPoint'][]
}>()
const [w, h] = [620, 120]
const all = computed(() => [...points, ...forecast])
const span = computed(() => {
  const first = Date.parse(all.value[0]?.day ?? '2000-01-01')
  return { first, length: Math.max(1, Date.parse(all.value.at(-1)?.day ?? '2000-01-02') - first) }
})
const says = computed(() =>
  [points[0], points.at(-1)].map((p) => `${percent(p?.readiness)} on ${day(p?.day)}`).join(' to '),
)
const x = (d: string) => ((Date.parse(d) - span.value.first) / span.value.length) * w
const y = (n: number | string) => h - Number(n) * h
/** Readiness stays as it is until the day on which it changes. */
const steps = (list: readonly Schemas['ReadinessPoint'][]) =>
  list.map((p, i) => `${i ? `H${x(p.day)} V` : `M${x(p.day)} `}${y(p.readiness)}`).join(' ')
const moved = computed(() => all.value.filter((p) => p.moved.length))
const open = ref<string | null>(null)
const shown = computed(() => moved.value.find((p) => p.day === open.value))
</script>

<template>
  <figure v-if="all.length > 1">
    <svg :viewBox="`-4 -6 ${w + 8} ${h + 12}`" role="img" :aria-label="says">
      <line v-for="g in [0, 0.5, 1]" :key="g" x1="0" :x2="w" :y1="y(g)" :y2="y(g)" class="grid" />
      <path :d="steps(points)" class="line" />
      <path v-if="forecast.length" :d="steps(forecast)" class="line later" />
      <circle
        v-for="p in moved"
        :key="p.day"
        :cx="x(p.day)"
        :cy="y(p.readiness)"
        r="4"
        class="dot"
        :class="{ at: open === p.day }"
        @click="open = open === p.day ? null : p.day"
      >
        <title>{{ day(p.day) }}: {{ percent(p.readiness) }}</title>
      </circle>
    </svg>
    <figcaption class="ends small quiet">
      <span>{{ day(points[0]?.day) }}</span><span
        >0, 50 and 100 %; a dot is a day on which something moved it{{
          forecast.length ? '; dashed is the forecast if nobody does anything' : ''
        }}</span
      ><span>{{ day(all.at(-1)?.day) }}</span>
    </figcaption>
    <div v-if="shown" class="why">
      <strong>{{ day(shown.day) }}: {{ percent(shown.readiness) }}</strong>
      <ul>
        <li v-for="m in shown.moved.slice(0, 12)" :key="m">{{ m }}</li>
      </ul>
    </div>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  max-width: 760px;
}
svg {
  width: 100%;
  display: block;
}
.grid {
  stroke: var(--line);
}
.line {
  fill: none;
  stroke: var(--sea);
  stroke-width: 2;
}
.later {
  stroke-dasharray: 5 4;
  stroke: var(--copper);
}
.dot {
  fill: var(--sheet);
  stroke: var(--copper);
  stroke-width: 1.5;
  cursor: pointer;
}
.dot.at {
  fill: var(--copper);
}
.ends {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
.why {
  border-left: 3px solid var(--copper);
  padding-left: 10px;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
