<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { count } from '@/shared/format'
import { useUrl } from '@/shared/url'
import SchedulePage from './SchedulePage.vue'

const { text } = useUrl()
const open = text('line')
const { data, error } = useQuery({ queryKey: ['health'], queryFn: () => take(api.GET('/api/schedule/health')) })
const lines = computed(() => [...(data.value ?? [])].sort((a, b) => Number(b.count > 0) - Number(a.count > 0)))
const wrong = computed(() => lines.value.filter((l) => l.count > 0).length)
</script>

<template>
  <SchedulePage
    title="Health of the schedule"
    :note="data ? `${wrong} of ${data.length} lines have something to say` : ''"
    :problem="error?.message"
  >
    <ul class="lines" aria-label="Lines">
      <li v-for="l in lines" :key="l.key" class="panel" :class="{ well: !l.count }">
        <button
          class="line"
          :aria-expanded="open === l.key"
          :disabled="!l.count"
          @click="open = open === l.key ? '' : l.key"
        >
          <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
            <path v-if="l.count" d="M7 1.5 13 12.5H1Z" fill="none" stroke="currentColor" stroke-width="1.5" />
            <path v-else d="M2 7.5 5.5 11 12 3.500" fill="none" stroke="currentColor" stroke-width="1.6" />
          </svg>
          <strong>{{ l.title }}</strong><span class="figure">{{
            l.count ? `${count(l.count)} ${l.what}` : 'none'
          }}</span>
        </button>
        <div v-if="open === l.key && l.count" class="rows">
          <p>
            {{ l.meaning }} <span class="quiet">{{ l.fix }}</span>
          </p>
          <table class="sheet">
            <tbody>
              <tr v-for="(r, i) in l.rows" :key="i">
                <td>
                  <RouterLink :to="r.link">{{ r.title }}</RouterLink>
                </td>
                <td class="quiet">{{ r.note }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="l.link"><RouterLink :to="l.link">All of them in one list</RouterLink></p>
        </div>
      </li>
    </ul>
  </SchedulePage>
</template>

<style scoped>
.lines {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.line {
  display: grid;
  grid-template-columns: 22px 1fr auto;
  align-items: center;
  width: 100%;
  background: none;
  border: 0;
  padding: 10px 16px;
  color: var(--copper);
  cursor: pointer;
  text-align: left;
  min-height: 40px;
}
.line strong {
  color: var(--ink);
  font-weight: 600;
}
.well .line {
  color: var(--sea);
  cursor: default;
}
.well strong {
  font-weight: 400;
  color: var(--ink-2);
}
.well .figure {
  color: var(--ink-2);
}
.rows {
  padding: 0 16px 12px 38px;
}
.rows p {
  margin: 0 0 8px;
}
.rows td:first-child {
  width: 55%;
}
</style>
