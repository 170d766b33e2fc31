<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { day, plural } from '@/shared/format'

/** Courses of the training register, each with who has done it, who still has time and who is late. */
const { data, error } = useQuery({
  queryKey: ['areas', 'training'],
  queryFn: () => take(api.GET('/api/areas/training')),
})
const open = ref<string | null>(null)
/** Two programs may know the same course. */
const keyOf = (c: { connection: string; course: string }) => `${c.connection} ${c.course}`
const share = (part: number, c: { done: number; inTime: number; late: number }) =>
  `${(100 * part) / Math.max(1, c.done + c.inTime + c.late)}%`
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <p v-else-if="data?.length === 0" class="quiet">
    No training register is connected yet. <RouterLink to="/readiness/connections">Connect one</RouterLink>, and every
    course shows here with its people.
  </p>
  <section v-for="c in data ?? []" :key="keyOf(c)" class="panel course">
    <button class="line" :aria-expanded="open === keyOf(c)" @click="open = open === keyOf(c) ? null : keyOf(c)">
      <strong>{{ c.course }}</strong>
      <span class="bar" aria-hidden="true"
        ><i class="done" :style="{ width: share(c.done, c) }" /><i :style="{ width: share(c.inTime, c) }" /><i
          class="late"
          :style="{ width: share(c.late, c) }"
      /></span>
      <span class="num small">{{ c.done }} of {{ c.done + c.inTime + c.late }} done</span>
      <span class="num small quiet">{{ c.inTime }} have time</span>
      <span class="num small" :class="{ lacking: c.late }">{{ c.late ? `▲ ${c.late} late` : 'none late' }}</span>
    </button>
    <table v-if="open === keyOf(c)" class="sheet">
      <thead>
        <tr>
          <th>Person</th>
          <th>State</th>
          <th>Day</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in c.people.slice(0, 200)" :key="p.mail">
          <td>
            <RouterLink :to="`/access?person=${encodeURIComponent(p.mail)}`">{{ p.name }}</RouterLink>
          </td>
          <td :class="{ lacking: p.late }">{{ p.done ? 'done' : p.late ? '▲ late' : 'has time' }}</td>
          <td>{{ p.done ? day(p.done) : p.due ? `due ${day(p.due)}` : '–' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="open === keyOf(c) && c.people.length > 200" class="small quiet more">
      The first 200 of {{ plural(c.people.length, 'person', 'people') }}; the latest come first.
    </p>
  </section>
</template>

<style scoped>
.course {
  overflow: hidden;
}
.line {
  display: grid;
  grid-template-columns: minmax(180px, 1fr) minmax(120px, 260px) 110px 100px 80px;
  gap: 14px;
  align-items: center;
  width: 100%;
  padding: 10px 14px;
  background: none;
  border: 0;
  font: inherit;
  text-align: left;
  color: var(--ink);
  cursor: pointer;
}
.line:hover {
  background: var(--sea-wash);
}
.bar {
  display: flex;
  height: 8px;
  background: var(--line);
}
.bar i {
  background: var(--line-2);
}
.bar .done {
  background: var(--sea);
}
.bar .late {
  background: var(--copper);
}
.more {
  padding: 6px 14px;
}
@media (max-width: 900px) {
  .line {
    grid-template-columns: 1fr 1fr 1fr;
  }
  .line strong,
  .line .bar {
    grid-column: 1 / -1;
  }
}
</style>
