<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

/** Places by longitude and latitude (equirectangular), each as large as its sign-ins; the table beside it says the same. */
const { places } = defineProps<{ places: readonly Schemas['SignInPlace'][] }>()
const known = computed(() => places.filter((p) => p.latitude != null && p.longitude != null))
const bounds = computed(() => {
  const lat = known.value.map((p) => Number(p.latitude))
  const lon = known.value.map((p) => Number(p.longitude))
  const pad = 4
  return {
    south: Math.max(-90, Math.min(...lat) - pad),
    north: Math.min(90, Math.max(...lat) + pad),
    west: Math.max(-180, Math.min(...lon) - pad),
    east: Math.min(180, Math.max(...lon) + pad),
  }
})
const x = (lon: number) => ((lon - bounds.value.west) / (bounds.value.east - bounds.value.west)) * 400
const y = (lat: number) => ((bounds.value.north - lat) / (bounds.value.north - bounds.value.south)) * 240
const most = computed(() => Math.max(1, ...known.value.map((p) => p.success + p.failure)))
const size = (p: Schemas['SignInPlace']) => 4 + 14 * Math.sqrt((p.success + p.failure) / most.value)
/** Where each name stands: beside its place, and below a name that stands there already. */
const labels = computed(() => {
  const set: { x: number; y: number }[] = []
  for (const p of known.value) {
    const at = { x: x(Number(p.longitude)), y: y(Number(p.latitude)) + 4 }
    while (set.some((o) => Math.abs(o.y - at.y) < 12 && Math.abs(o.x - at.x) < 80)) at.y += 12
    set.push(at)
  }
  return set
})
const every10 = (from: number, to: number) =>
  Array.from({ length: 40 }, (_, i) => -180 + i * 10).filter((d) => d > from && d < to)
</script>

<template>
  <svg v-if="known.length" class="map" viewBox="0 0 400 240" role="img" aria-label="Places of sign-ins on a chart">
    <line v-for="d in every10(bounds.west, bounds.east)" :key="`w${d}`" :x1="x(d)" :x2="x(d)" y1="0" y2="240" />
    <line v-for="d in every10(bounds.south, bounds.north)" :key="`n${d}`" :y1="y(d)" :y2="y(d)" x1="0" x2="400" />
    <g v-for="(p, i) in known" :key="p.place">
      <circle
        :cx="x(Number(p.longitude))"
        :cy="y(Number(p.latitude))"
        :r="size(p)"
        :class="{ failing: p.failure > p.success }"
      >
        <title>{{ p.place }}: {{ count(p.success) }} succeeded, {{ count(p.failure) }} failed</title>
      </circle>
      <text
        :x="x(Number(p.longitude)) + (x(Number(p.longitude)) > 300 ? -size(p) - 3 : size(p) + 3)"
        :y="labels[i]!.y"
        :text-anchor="x(Number(p.longitude)) > 300 ? 'end' : 'start'"
      >
        {{ p.place }}
      </text>
    </g>
  </svg>
  <p v-else class="quiet">No address of these sign-ins has a known place.</p>
</template>

<style scoped>
.map {
  width: 100%;
  max-height: 340px;
  background: var(--sheet-2);
  border: 1px solid var(--line);
}
line {
  stroke: var(--line);
  stroke-width: 1;
}
circle {
  fill: var(--sea);
  fill-opacity: 0.55;
  stroke: var(--sea);
}
circle.failing {
  fill: var(--copper);
  stroke: var(--copper);
}
text {
  font: 11px var(--sans);
  fill: var(--ink);
}
</style>
