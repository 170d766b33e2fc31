<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'

/** One hour beside the hours that it is held against, with every number from which its surprise is computed. */
const { baseline } = defineProps<{ baseline: Schemas['AlertBaseline'] }>()
const [w, h] = [420, 90]
const known = computed(() => baseline.hours.length > 0)
const top = computed(() => Math.max(baseline.measure, ...baseline.hours, baseline.median + 3 * baseline.band, 1))
const y = (n: number) => h - (n / top.value) * h
const step = computed(() => w / (baseline.hours.length + 1))
const show = (n: number) => n.toLocaleString('en-GB', { maximumFractionDigits: 2 })
</script>

<template>
  <section aria-label="Baseline">
    <h2>On their own hours</h2>
    <p v-if="!known">{{ show(baseline.measure) }} in this hour. There is too little history to judge it by.</p>
    <template v-else>
      <svg
        :viewBox="`0 -2 ${w} ${h + 4}`"
        role="img"
        :aria-label="`${show(baseline.measure)} in this hour; ${baseline.cell}: median ${show(baseline.median)}`"
      >
        <rect
          x="0"
          :width="w"
          :y="y(baseline.median + 3 * baseline.band)"
          :height="h - y(baseline.median + 3 * baseline.band)"
          class="band"
        />
        <line x1="0" :x2="w" :y1="y(baseline.median)" :y2="y(baseline.median)" class="median" />
        <rect
          v-for="(n, i) in baseline.hours"
          :key="i"
          :x="i * step + 1"
          :width="Math.max(1, step - 2)"
          :y="y(n)"
          :height="h - y(n)"
          class="hour"
        />
        <rect
          :x="w - step + 1"
          :width="Math.max(2, step - 2)"
          :y="y(baseline.measure)"
          :height="h - y(baseline.measure)"
          class="now"
        />
      </svg>
      <p class="small">
        This hour: <strong>{{ show(baseline.measure) }}</strong>. Held against {{ baseline.cell }},
        {{ baseline.hours.length }} hours: median m = {{ show(baseline.median) }}, s = 1.4826 × MAD =
        {{ show(baseline.band) }}, m + 3s = {{ show(baseline.median + 3 * baseline.band) }} (shaded); mean
        {{ show(baseline.mean) }}, variance {{ show(baseline.variance) }};
        {{ baseline.variance <= baseline.mean ? 'Poisson' : 'negative binomial' }} tail 10<sup
          >−{{ show(baseline.tail) }}</sup
        >.
      </p>
    </template>
  </section>
</template>

<style scoped>
h2 {
  font-size: 15px;
  margin: 0 0 4px;
}
p {
  margin: 0;
}
svg {
  width: 100%;
  max-width: 520px;
  display: block;
  border-bottom: 1px solid var(--line-2);
}
.band {
  fill: var(--sea-wash);
}
.median {
  stroke: var(--sea);
  stroke-dasharray: 4 3;
}
.hour {
  fill: var(--ink-3);
}
.now {
  fill: var(--copper);
}
</style>
