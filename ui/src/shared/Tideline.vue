<script setup lang="ts">
import { computed } from 'vue'
import { day, dayNumber, keepUntil } from './format'
import type { Schemas } from '@/shared/api/client'

const {
  line,
  today,
  from,
  to,
  wide = false,
} = defineProps<{
  line: Schemas['TidelineView']
  today: string
  /** ISO dates of the axis' ends; all lines of a list share them. */
  from: string
  to: string
  wide?: boolean
}>()

const height = computed(() => (wide ? 40 : 20))
const width = computed(() => (wide ? 560 : 120))
const middle = computed(() => (wide ? 18 : 11))

function x(iso: string) {
  const [start, end] = [dayNumber(from), dayNumber(to)]
  const share = (dayNumber(iso) - start) / Math.max(1, end - start)
  return 4 + Math.min(1, Math.max(0, share)) * (width.value - 8)
}

const until = computed(() => (/^\d/.test(line.keepUntil ?? '') ? line.keepUntil! : null))
const permanent = computed(() => line.keepUntil === 'permanent')
const waiting = computed(() => line.keepUntil === 'awaiting-event')
const begin = computed(() => line.start ?? (permanent.value ? from : null))
const end = computed(() => until.value ?? (permanent.value ? to : null))
const passed = computed(() => until.value !== null && until.value < today)
const told = computed(() => {
  if (permanent.value) return 'kept permanently'
  if (waiting.value) return 'waits for a date'
  if (!until.value) return 'nothing keeps it'
  const start = line.start ? `from ${day(line.start)}` : ''
  const cutoff = line.cutoff && line.cutoff !== line.start ? `, cutoff ${day(line.cutoff)}` : ''
  return `${start}${cutoff}, kept through ${keepUntil(until.value)}${passed.value ? ', passed' : ''}`
})
</script>

<template>
  <svg
    class="tideline"
    :class="{ wide }"
    :viewBox="`0 0 ${width} ${height}`"
    :width="wide ? '100%' : width"
    :height="height"
    role="img"
    :aria-label="told"
    preserveAspectRatio="none"
  >
    <title>{{ told }}</title>
    <line :x1="2" :x2="width - 2" :y1="middle" :y2="middle" class="axis" />
    <line
      v-if="begin && end"
      :x1="x(begin)"
      :x2="x(end)"
      :y1="middle"
      :y2="middle"
      class="term"
      :class="{ permanent }"
    />
    <line
      v-if="line.cutoff && line.cutoff !== line.start"
      :x1="x(line.cutoff)"
      :x2="x(line.cutoff)"
      :y1="middle - 5"
      :y2="middle + 5"
      class="cutoff"
    />
    <circle v-if="line.start" :cx="x(line.start)" :cy="middle" r="3.2" class="trigger" />
    <circle v-if="waiting" :cx="8" :cy="middle" r="4" class="trigger" />
    <path v-if="until" :d="`M${x(until)} ${middle - 5}l5 5-5 5-5-5z`" class="until" :class="{ passed }" />
    <line :x1="x(today)" :x2="x(today)" y1="1" :y2="height - 1" class="today" />
    <template v-if="wide">
      <text v-if="begin && line.start" :x="Math.min(x(line.start), width - 80)" :y="height - 2" class="text">
        {{ line.start.slice(0, 4) }}
      </text>
      <text v-if="until" :x="Math.min(x(until) - 12, width - 40)" :y="height - 2" class="text">
        {{ until.slice(0, 4) }}
      </text>
    </template>
  </svg>
</template>

<style scoped>
.tideline {
  display: block;
}
.tideline.wide {
  height: 40px;
  max-width: 100%;
}
.axis {
  stroke: var(--line-2);
}
.term {
  stroke: var(--sea);
  stroke-width: 3;
}
.term.permanent {
  stroke: var(--gold);
}
.cutoff {
  stroke: var(--ink);
  stroke-width: 1.4;
}
.trigger {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.4;
}
.until {
  fill: var(--ink);
}
.until.passed {
  fill: var(--copper);
}
.today {
  stroke: var(--ink-3);
  stroke-dasharray: 2 2;
}
.text {
  font: 11px var(--sans);
  fill: var(--ink-3);
}
</style>
