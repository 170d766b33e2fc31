<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, take } from '@/shared/api/client'
import { count, day, moment, plural } from '@/shared/format'
import type { Rule } from './watchWords'

/**
 * What a watch would have raised over the events at hand: by day, one by one, and at other thresholds. Pulling the mark
 * along the curve changes the watch.
 */
const { rule, movable = false } = defineProps<{ rule: Rule; movable?: boolean }>()
const emit = defineEmits<{ threshold: [number] }>()
const tried = ref(rule)
watch(
  () => rule,
  (r) => (tried.value = r),
)
const result = useQuery({
  queryKey: computed(() => ['backtest', tried.value]),
  queryFn: () => take(api.POST('/api/watches/backtest', { body: { rule: tried.value } })),
  placeholderData: keepPreviousData,
  retry: false,
})
const data = computed(() => (result.error.value ? undefined : result.data.value))
const most = computed(() => Math.max(1, ...(data.value?.days.map((d) => d.alerts) ?? [])))
/** Every day from the first alert to the last, so that the distance between columns is time. */
const days = computed(() => {
  const found = data.value?.days ?? []
  const first = found[0]?.day
  const last = found.at(-1)?.day
  if (!first || !last) return []
  const by = new Map(found.map((d) => [d.day, d.alerts]))
  const all: { day: string; alerts: number }[] = []
  for (let t = Date.parse(first); t <= Date.parse(last); t += 86_400_000) {
    const iso = new Date(t).toISOString().slice(0, 10)
    all.push({ day: iso, alerts: by.get(iso) ?? 0 })
  }
  return all
})
const curve = computed(() => data.value?.curve ?? [])
const [w, h] = [420, 110]
const top = computed(() => Math.max(1, ...curve.value.map((p) => p.perWeek)))
const x = (i: number) => (i / Math.max(1, curve.value.length - 1)) * w
// Noise falls off steeply: a root keeps the end of the curve readable.
const y = (n: number) => h - Math.sqrt(n / top.value) * (h - 6)
const at = computed(() => {
  const now = data.value?.mark ?? 0
  let best = 0
  curve.value.forEach((p, i) => {
    if (Math.abs(p.threshold - now) < Math.abs(curve.value[best]!.threshold - now)) best = i
  })
  return best
})
/** The curve in words, from its first point to its last. */
const says = computed(() =>
  [curve.value[0], curve.value.at(-1)].map((p) => `${p?.perWeek} a week at ${p?.threshold}`).join(' to '),
)
</script>

<template>
  <section aria-label="Backtest" class="backtest">
    <h2>What it would have raised</h2>
    <p v-if="result.error.value" class="problem" role="alert">{{ result.error.value.message }}</p>
    <p v-else-if="!data" class="quiet">Trying it on the events at hand …</p>
    <template v-else>
      <p>
        <strong>{{ plural(data.raised, 'alert') }}</strong> from {{ plural(data.counted, 'event') }} that count:
        <strong>{{ data.perWeek.toLocaleString('en-GB') }} a week</strong>.
      </p>
      <div
        v-if="days.length"
        class="columns"
        role="img"
        :aria-label="`Alerts by day from ${day(days[0]!.day)} to ${day(days.at(-1)!.day)}, at most ${most} a day`"
      >
        <span v-for="d in days" :key="d.day" :title="`${day(d.day)}: ${plural(d.alerts, 'alert')}`"
          ><i :style="{ height: `${(d.alerts / most) * 100}%` }"
        /></span>
      </div>
      <p v-if="days.length" class="ends small quiet">
        <span>{{ day(days[0]!.day) }}</span><span>{{ day(days.at(-1)!.day) }}</span>
      </p>
      <figure v-if="curve.length > 1">
        <figcaption class="label">Alerts a week at other thresholds</figcaption>
        <svg :viewBox="`-6 -4 ${w + 12} ${h + 10}`" role="img" :aria-label="says">
          <polyline :points="curve.map((p, i) => `${x(i)},${y(p.perWeek)}`).join(' ')" class="curve" />
          <line :x1="x(at)" :x2="x(at)" y1="0" :y2="h" class="mark" />
          <circle :cx="x(at)" :cy="y(curve[at]!.perWeek)" r="4" class="dot" />
        </svg>
        <el-slider
          v-if="movable"
          :model-value="at"
          :min="0"
          :max="curve.length - 1"
          :format-tooltip="(i: number) => `${count(curve[i]?.threshold ?? 0)}: ${curve[i]?.perWeek} a week`"
          aria-label="Threshold"
          @input="(i: number | number[]) => emit('threshold', curve[i as number]!.threshold)"
        />
        <p class="ends small quiet">
          <span>{{ count(curve[0]!.threshold) }}</span><span
            >now {{ count(curve[at]!.threshold) }}: {{ curve[at]!.perWeek }} a week</span
          ><span>{{ count(curve.at(-1)!.threshold) }}</span>
        </p>
      </figure>
      <table v-if="data.alerts.length" class="sheet">
        <thead>
          <tr>
            <th>When</th>
            <th>Who</th>
            <th>Why</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(a, i) in data.alerts.slice(0, 40)" :key="i">
            <td class="when">
              <RouterLink v-if="a.eventRow" :to="`/activity/search?days=all&event=${a.eventRow}`">{{
                moment(a.at)
              }}</RouterLink><template v-else>{{ moment(a.at) }}</template>
            </td>
            <td>{{ a.key ?? '–' }}</td>
            <td class="small">{{ a.why }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="data.raised > 40" class="small quiet">The latest 40 of {{ count(data.raised) }}.</p>
    </template>
  </section>
</template>

<style scoped>
.backtest {
  display: grid;
  gap: 8px;
}
h2 {
  font-size: 15px;
}
p {
  margin: 0;
}
.columns {
  display: flex;
  height: 64px;
  align-items: stretch;
  border-bottom: 1px solid var(--line-2);
}
.columns span {
  flex: 1;
  display: flex;
  align-items: flex-end;
  padding-right: 1px;
  max-width: 14px;
}
.columns i {
  flex: 1;
  background: var(--copper);
}
.ends {
  display: flex;
  justify-content: space-between;
}
figure {
  margin: 0;
  max-width: 520px;
}
svg {
  width: 100%;
  display: block;
}
.curve {
  fill: none;
  stroke: var(--sea);
  stroke-width: 2;
}
.mark {
  stroke: var(--copper);
}
.dot {
  fill: var(--copper);
}
.when {
  white-space: nowrap;
}
</style>
