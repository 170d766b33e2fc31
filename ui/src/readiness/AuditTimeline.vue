<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day, dayNumber, monthWords, plural } from '@/shared/format'
import { today } from '@/shared/session'

/** Audits on one axis: the period that each looks at, the days of its room, and when its requests and actions are due. */
const { audits } = defineProps<{ audits: readonly Schemas['AuditView'][] }>()
const emit = defineEmits<{ choose: [number] }>()
const MARGIN = 14
const span = computed(() => {
  const days = audits.flatMap((a) => [a.settings.periodFrom, a.settings.endsOn]).map(dayNumber)
  const now = dayNumber(today.value)
  return { from: Math.min(now, ...days) - MARGIN, to: Math.max(now, ...days) + MARGIN }
})
const at = (iso: string) => ((dayNumber(iso) - span.value.from) / (span.value.to - span.value.from)) * 100
const width = (from: string, through: string) => at(through) - at(from) + 100 / (span.value.to - span.value.from)
interface Mark {
  at: number
  settled: boolean
  late: boolean
  says: string
}
/** What is due on a day, as one mark. */
const marks = (a: Schemas['AuditView']): Mark[] => {
  const due = [
    ...a.requests.map((r) => ({ due: r.due, settled: r.state === 'accepted', says: `request ${r.number}, ${r.what}` })),
    ...a.findings.flatMap((f) =>
      f.due ? [{ due: f.due, settled: !!f.verifiedAt, says: `action on ${f.title}` }] : [],
    ),
  ]
  return [...new Set(due.map((d) => d.due))].map((on) => {
    const those = due.filter((d) => d.due === on)
    const settled = those.every((d) => d.settled)
    return {
      at: at(on),
      settled,
      late: !settled && on < today.value,
      says: `Due on ${day(on)}: ${those.map((d) => d.says).join('; ')}${settled ? ', settled' : ''}`,
    }
  })
}
const rows = computed(() =>
  audits.map((a) => ({
    id: a.id,
    name: a.settings.name,
    period: { left: at(a.settings.periodFrom), width: width(a.settings.periodFrom, a.settings.periodThrough) },
    room: { left: at(a.settings.startsOn), width: width(a.settings.startsOn, a.settings.endsOn) },
    closed: !!a.closedAt,
    marks: marks(a),
    says:
      `It looks at ${day(a.settings.periodFrom)} to ${day(a.settings.periodThrough)}; its room is open from ` +
      `${day(a.settings.startsOn)} to ${day(a.settings.endsOn)}, with ${plural(a.requests.length, 'request')}`,
  })),
)
/** The first days of months, no more than eight of them named. */
const months = computed(() => {
  const first = new Date(span.value.from * 86_400_000)
  const all: string[] = []
  for (let i = 1; ; i++) {
    const iso = new Date(Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + i, 1)).toISOString().slice(0, 10)
    if (dayNumber(iso) > span.value.to) break
    all.push(iso)
  }
  const every = Math.max(1, Math.ceil(all.length / 8))
  return all.filter((_, i) => i % every === 0).map((iso) => ({ left: at(iso), label: monthWords(iso) }))
})
</script>

<template>
  <figure v-if="rows.length" aria-label="Audits in time">
    <div class="axis" aria-hidden="true">
      <span v-for="m in months" :key="m.left" :style="{ left: `${m.left}%` }">{{ m.label }}</span>
    </div>
    <div v-for="r in rows" :key="r.id" class="row">
      <button class="name" :title="r.name" @click="emit('choose', r.id)">{{ r.name }}</button>
      <div class="lane">
        <span class="period" :style="{ left: `${r.period.left}%`, width: `${r.period.width}%` }"></span>
        <span
          class="room"
          :class="{ closed: r.closed }"
          role="img"
          :aria-label="r.says"
          :title="r.says"
          :style="{ left: `${r.room.left}%`, width: `${r.room.width}%` }"
        ></span>
        <i class="today" aria-hidden="true" :style="{ left: `${at(today)}%` }"></i>
        <span
          v-for="m in r.marks"
          :key="m.says"
          class="mark"
          :class="{ settled: m.settled, late: m.late }"
          role="img"
          :aria-label="m.says"
          :title="m.says"
          :style="{ left: `${m.at}%` }"
          >{{ m.settled ? '✓' : m.late ? '▲' : '◇' }}</span
        >
      </div>
    </div>
    <figcaption class="small quiet">
      <i class="key period"></i> the period looked at <i class="key room"></i> the room is open
      <span class="sign">◇</span> due <span class="sign lacking">▲</span> late <span class="sign">✓</span> settled; the
      line is today
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0 0 6px;
  display: grid;
  gap: 4px;
}
.axis {
  position: relative;
  height: 16px;
  margin-left: 230px;
  font-size: 11.5px;
  color: var(--ink-3);
  overflow: hidden;
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
  line-height: 24px;
  cursor: pointer;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lane {
  position: relative;
  height: 26px;
  background: var(--sheet-2);
  overflow: hidden;
}
.lane .period,
.lane .room {
  position: absolute;
  top: 6px;
  height: 14px;
}
.period {
  background: var(--line-2);
}
.room {
  background: var(--sea);
}
.room.closed {
  opacity: 0.5;
}
.today {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1px solid var(--ink);
}
.mark {
  position: absolute;
  top: 5px;
  width: 16px;
  margin-left: -8px;
  text-align: center;
  font-size: 13px;
  line-height: 16px;
  color: var(--ink);
  background: var(--sheet);
  border-radius: 8px;
}
.mark.late {
  color: var(--copper);
}
.mark.settled {
  color: var(--sea);
}
.key {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin: 0 2px 0 10px;
}
.sign {
  margin-left: 10px;
}
figcaption {
  margin-left: 220px;
}
</style>
