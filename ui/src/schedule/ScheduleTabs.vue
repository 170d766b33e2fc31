<script setup lang="ts">
import { useRoute } from 'vue-router'
import { may } from '@/app/session'

const route = useRoute()
const tabs = [
  { to: '/schedule', label: 'Series', show: true },
  { to: '/schedule/drafts', label: 'Drafts', show: may('writeSchedule') },
  { to: '/schedule/blankets', label: 'Blankets', show: true },
  { to: '/schedule/authorities', label: 'Authorities', show: true },
  { to: '/schedule/events', label: 'Events', show: true },
  { to: '/schedule/filing', label: 'Filing', show: true },
  { to: '/schedule/spreadsheet', label: 'Spreadsheet', show: true },
  { to: '/schedule/health', label: 'Health', show: may('writeSchedule') },
].filter((t) => t.show)
const active = (to: string) =>
  to === '/schedule' ? /^\/schedule(\/\d+)?$/.test(route.path) : route.path.startsWith(to)
</script>

<template>
  <nav class="tabs" aria-label="Parts of the schedule">
    <RouterLink
      v-for="t in tabs"
      :key="t.to"
      :to="t.to"
      :class="{ active: active(t.to) }"
      :aria-current="active(t.to) ? 'page' : undefined"
      >{{ t.label }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
  background: var(--sheet);
}
.tabs a {
  padding: 8px 0 7px;
  color: var(--ink-2);
  text-decoration: none;
  font-size: 13.5px;
  border-bottom: 2px solid transparent;
}
.tabs a:hover {
  color: var(--ink);
}
.tabs a.active {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--copper);
}
</style>
