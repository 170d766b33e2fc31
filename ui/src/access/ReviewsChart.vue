<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day, dayNumber, monthWords } from '@/shared/format'
import { today } from '@/shared/session'

/** All reviews on one axis of a year: what ran, what runs, what is planned; the table beneath says the same. */
const { reviews } = defineProps<{ reviews: readonly Schemas['ReviewView'][] }>()
const emit = defineEmits<{ choose: [number] }>()
const DAYS = 182
const now = computed(() => dayNumber(today.value))
const at = (iso: string) => ((dayNumber(iso) - now.value + DAYS) / (2 * DAYS)) * 100
const within = (share: number) => Math.min(100, Math.max(0, share))
interface Bar {
  left: number
  width: number
  kept: number
  removed: number
  says: string
  planned: boolean
}
const bar = (from: string, to: string, rest: Omit<Bar, 'left' | 'width'>): Bar | null => {
  const [left, right] = [at(from), at(to)]
  return right < 0 || left > 100
    ? null
    : { left: within(left), width: Math.max(0.6, within(right) - within(left)), ...rest }
}
const rows = computed(() =>
  reviews
    .map((r) => ({
      id: r.id,
      name: r.settings.name,
      bars: [
        ...r.rounds.map((x) =>
          bar(x.startedOn, x.endedAt?.slice(0, 10) ?? x.endsOn, {
            kept: x.lines ? (x.kept / x.lines) * 100 : 0,
            removed: x.lines ? (x.removed / x.lines) * 100 : 0,
            says: `Round ${x.number}, from ${day(x.startedOn)}: ${x.kept} kept, ${x.removed} removed, ${x.open} open`,
            planned: false,
          }),
        ),
        r.nextOn
          ? bar(r.nextOn, new Date(Date.parse(r.nextOn) + r.settings.days * 86_400_000).toISOString().slice(0, 10), {
              kept: 0,
              removed: 0,
              says: `Planned from ${day(r.nextOn)} for ${r.settings.days} days`,
              planned: true,
            })
          : null,
      ].filter((b) => b !== null),
    }))
    .filter((r) => r.bars.length),
)
const months = computed(() => {
  const first = new Date(Date.parse(today.value) - DAYS * 86_400_000)
  return Array.from({ length: 12 }, (_, i) =>
    new Date(Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + 1 + i, 1)).toISOString().slice(0, 10),
  ).map((iso) => ({ left: at(iso), label: monthWords(iso) }))
})
</script>

<template>
  <figure v-if="rows.length" aria-label="Reviews over the year">
    <div class="axis" aria-hidden="true">
      <span v-for="(m, i) in months" :key="m.left" :style="{ left: `${m.left}%` }">{{ i % 2 ? '' : m.label }}</span>
    </div>
    <div v-for="r in rows" :key="r.id" class="row">
      <button class="name" :title="r.name" @click="emit('choose', r.id)">{{ r.name }}</button>
      <div class="lane">
        <i class="today" aria-hidden="true"></i>
        <span
          v-for="b in r.bars"
          :key="b.says"
          class="bar"
          :class="{ planned: b.planned }"
          role="img"
          :aria-label="b.says"
          :title="b.says"
          :style="{ left: `${b.left}%`, width: `${b.width}%` }"
          ><i class="kept" :style="{ width: `${b.kept}%` }"></i
          ><i class="removed" :style="{ width: `${b.removed}%` }"></i
        ></span>
      </div>
    </div>
    <figcaption class="small quiet">
      <i class="key kept"></i> kept <i class="key removed"></i> removed <i class="key open"></i> open
      <i class="key planned"></i> planned; the line is today
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  display: grid;
  gap: 4px;
}
.axis {
  position: relative;
  height: 16px;
  margin-left: 230px;
  font-size: 11.5px;
  color: var(--ink-3);
}
.axis span {
  position: absolute;
  white-space: nowrap;
}
.row {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
}
.name {
  border: 0;
  background: none;
  padding: 0;
  text-align: left;
  color: var(--ink);
  font-size: 13px;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lane {
  position: relative;
  height: 20px;
  background: var(--sheet-2);
  overflow: hidden;
}
.today {
  position: absolute;
  left: 50%;
  top: 0;
  bottom: 0;
  border-left: 1px solid var(--ink-2);
}
.bar {
  position: absolute;
  top: 4px;
  height: 12px;
  background: var(--line-2);
  display: flex;
}
.planned {
  background: none;
  border: 1px solid var(--ink-3);
}
.kept {
  background: var(--sea);
}
.removed {
  background: var(--copper);
}
.key {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin: 0 2px 0 10px;
}
.open {
  background: var(--line-2);
}
figcaption {
  margin-left: 220px;
}
</style>
