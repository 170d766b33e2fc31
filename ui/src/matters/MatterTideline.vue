<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day, dayNumber } from '@/shared/format'

/**
 * One matter on the axis of time: orders as bars above the line, everything else as marks on it. Each can be pressed.
 */
const { marks, today } = defineProps<{ marks: readonly Schemas['MatterMark'][]; today: string }>()
const emit = defineEmits<{ open: [Schemas['MatterMark']] }>()

const WIDTH = 1000
const BAR = 13
const span = computed(() => {
  const days = marks
    .flatMap((m) => [m.at, m.until])
    .filter((d): d is string => !!d)
    .map((d) => dayNumber(d.slice(0, 10)))
  const [first, last] = [Math.min(...days), Math.max(dayNumber(today), ...days)]
  // A matter of one day still has a line to stand on.
  const pad = Math.max(3, Math.round((last - first) * 0.06))
  return { from: first - pad, to: last + pad }
})
const x = (iso: string) => ((dayNumber(iso.slice(0, 10)) - span.value.from) / (span.value.to - span.value.from)) * WIDTH
/** The label stands in its bar where there is room, else on the side that has some. */
const bars = computed(() =>
  marks
    .filter((m) => m.kind === 'order')
    .map((m, row) => {
      const [left, right] = [x(m.at), m.until ? x(m.until) : x(today)]
      return {
        mark: m,
        row,
        left,
        right,
        side: right - left > m.label.length * 9 ? 'inside' : left > WIDTH / 2 ? 'before' : 'after',
      }
    }),
)
const height = computed(() => bars.value.length * (BAR + 4) + 46)
const line = computed(() => bars.value.length * (BAR + 4) + 16)
/** Marks of one day stand beside each other, not on top. */
const points = computed(() => {
  const taken = new Map<number, number>()
  return marks
    .filter((m) => m.kind !== 'order')
    .map((m) => {
      const at = Math.round(x(m.at))
      const nth = taken.get(at) ?? 0
      taken.set(at, nth + 1)
      return { mark: m, at: at + nth * 13 }
    })
})
const told = (m: Schemas['MatterMark']) =>
  `${m.label}, ${day(m.at.slice(0, 10))}${m.until ? ` until ${day(m.until.slice(0, 10))}` : ''}`
const shapes: Record<string, string> = {
  opened: 'M-1-7V5M-1-7H7L4-4 7-1H-1',
  notice: 'M-6-4H6V4H-6ZM-6-4 0 1 6-4',
  sweep: 'M-4 0a4 4 0 1 0 8 0 4 4 0 1 0-8 0M3 3 6 6',
  bundle: 'M-5-4H5V5H-5ZM-5-1H5M-1-4V-1H1V-4',
  release: 'M0-6 6 0 0 6-6 0Z',
  closed: 'M-4-4 4 4M4-4-4 4',
}
</script>

<template>
  <figure class="tideline" aria-label="The matter in time">
    <svg
      :viewBox="`0 0 ${WIDTH} ${height}`"
      :height="height"
      width="100%"
      preserveAspectRatio="none"
      aria-hidden="true"
      class="axis"
    >
      <line x1="0" :x2="WIDTH" :y1="line" :y2="line" class="water" />
      <line :x1="x(today)" :x2="x(today)" y1="0" :y2="line + 10" class="today" />
    </svg>
    <button
      v-for="b in bars"
      :key="`o${b.mark.id}`"
      class="bar"
      :class="[b.side, { ended: b.mark.until }]"
      :style="{ left: `${b.left / 10}%`, width: `${(b.right - b.left) / 10}%`, top: `${b.row * (BAR + 4) + 2}px` }"
      :title="told(b.mark)"
      @click="emit('open', b.mark)"
    >
      <span>{{ b.mark.label }}</span>
    </button>
    <button
      v-for="(p, i) in points"
      :key="i"
      class="mark"
      :style="{ left: `calc(${p.at / 10}% - 12px)`, top: `${line - 12}px` }"
      :aria-label="told(p.mark)"
      :title="told(p.mark)"
      @click="emit('open', p.mark)"
    >
      <svg width="18" height="18" viewBox="-9 -9 18 18" aria-hidden="true">
        <path
          :d="shapes[p.mark.kind] ?? 'M-3 0H3'"
          fill="none"
          stroke="currentColor"
          stroke-width="1.500"
          stroke-linejoin="round"
        />
      </svg>
    </button>
    <figcaption class="small quiet">
      <span>{{ day(marks[0]?.at.slice(0, 10)) }}</span><span
        :style="{ left: `${Math.min(92, x(today) / 10)}%` }"
        class="now"
        >today</span
      >
    </figcaption>
  </figure>
</template>

<style scoped>
.tideline {
  position: relative;
  margin: 0;
  padding-bottom: 18px;
}
.axis {
  display: block;
}
.water {
  stroke: var(--line-2);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
.today {
  stroke: var(--copper);
  stroke-width: 1.5;
  stroke-dasharray: 3 3;
  vector-effect: non-scaling-stroke;
}
.bar {
  position: absolute;
  height: 15px;
  min-width: 26px;
  border: 0;
  border-radius: 2px;
  background: var(--plum);
  cursor: pointer;
  overflow: visible;
  padding: 0;
  text-align: left;
}
.bar span {
  position: absolute;
  top: -2px;
  white-space: nowrap;
  font-size: 12px;
  line-height: 18px;
  color: var(--plum);
}
.bar.before span {
  right: calc(100% + 8px);
}
.bar.after span {
  left: calc(100% + 8px);
}
.bar.inside span {
  left: 7px;
  color: var(--sheet);
}
.bar.inside.ended span {
  color: var(--plum);
}
.bar.ended {
  background: var(--plum-wash);
  outline: 1px solid var(--plum);
}
.mark {
  position: absolute;
  width: 24px;
  height: 24px;
  padding: 3px;
  border: 0;
  border-radius: 12px;
  background: var(--sheet);
  color: var(--ink-2);
  cursor: pointer;
  line-height: 0;
}
.mark:hover {
  color: var(--ink);
  background: var(--sheet-2);
}
figcaption {
  position: absolute;
  left: 0;
  right: 0;
  bottom: 0;
}
.now {
  position: absolute;
  transform: translateX(-50%);
  color: var(--copper);
}
</style>
