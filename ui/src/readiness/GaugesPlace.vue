<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import GaugeForm from './GaugeForm.vue'
import GaugePane from './GaugePane.vue'
import OwnMeasures from './OwnMeasures.vue'

/** Measured shares with their targets; each opens into what is missing. */
const { number } = useUrl()
const open = number('gauge')
const { data, error } = useQuery({ queryKey: ['gauges'], queryFn: () => take(api.GET('/api/gauges')) })
const making = ref(false)
const marks: Record<string, string> = { reached: '✓', below: '◐', warning: '◆', alarm: '▲', empty: '○' }
const words: Record<string, string> = {
  reached: 'at its target',
  below: 'below its target',
  warning: 'needs a look',
  alarm: 'needs an act',
  empty: 'nothing to measure',
}
const line = (g: Schemas['GaugeView']) => {
  const points = g.trend.filter((t) => t.of)
  if (points.length < 2) return ''
  const first = Date.parse(points[0]!.day)
  const span = Math.max(1, Date.parse(points.at(-1)!.day) - first)
  return points
    .map((t) => `${(((Date.parse(t.day) - first) / span) * 100).toFixed(1)},${(24 - (t.right / t.of) * 22).toFixed(1)}`)
    .join(' ')
}
const sorted = computed(() => {
  const order = ['alarm', 'warning', 'below', 'reached', 'empty']
  return [...(data.value ?? [])].sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state))
})
</script>

<template>
  <main class="page">
    <header>
      <h1>Gauges</h1>
      <span class="quiet">shares that the product measures from its own facts</span>
      <el-button v-if="may('manageReadiness')" type="primary" class="right" @click="making = !making"
        >Make a gauge</el-button
      >
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <section v-if="making" class="panel block" aria-label="A new gauge"><GaugeForm @close="making = false" /></section>
    <section v-if="data?.length === 0 && !making" class="panel block">
      <h2>Nothing is measured yet</h2>
      <p>Make a gauge of one of the ready measures: it has a figure at once, and a trend from tomorrow.</p>
    </section>
    <GaugePane v-if="open" :id="open" :key="open" @close="open = null" />
    <div class="tiles">
      <button
        v-for="g in sorted"
        :key="g.id"
        class="panel tile"
        :aria-expanded="open === g.id"
        @click="open = open === g.id ? null : g.id"
      >
        <span class="name">{{ g.settings.name }}</span>
        <span class="value" :class="g.state">{{
          g.percent === null || g.percent === undefined ? '–' : `${g.percent} %`
        }}</span>
        <svg v-if="line(g)" viewBox="0 0 100 26" preserveAspectRatio="none" aria-hidden="true">
          <polyline :points="line(g)" />
        </svg>
        <span class="small quiet"
          >{{ marks[g.state] }} {{ words[g.state] }}; {{ g.right }} of {{ g.of
          }}<template v-if="g.excluded">, {{ plural(g.excluded, 'exclusion') }}</template
          >; target {{ g.settings.target }} %</span
        >
      </button>
    </div>
    <OwnMeasures v-if="may('manageReadiness')" />
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 14px;
  align-content: start;
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
.tiles {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 12px;
}
.tile {
  display: grid;
  gap: 4px;
  padding: 12px 14px;
  text-align: left;
  cursor: pointer;
  color: var(--ink);
  grid-template-rows: auto auto 26px auto;
}
.tile:hover,
.tile[aria-expanded='true'] {
  border-color: var(--sea);
}
.name {
  font-weight: 600;
}
.value {
  font: 600 26px/1.1 var(--serif);
}
.alarm,
.warning {
  color: var(--copper);
}
.reached {
  color: var(--sea);
}
svg {
  width: 100%;
  height: 26px;
}
polyline {
  fill: none;
  stroke: var(--sea);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
</style>
