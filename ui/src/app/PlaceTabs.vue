<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { gathered, isAt, useBadges, useShown } from '@/shared/parts'

/** The tabs of the place that is open, on one line; nothing for a place that has but one. */
const { place } = defineProps<{ place: string }>()
const route = useRoute()
const all = gathered((p) => p.tabs)
const shown = useShown(all)
const badge = useBadges(all)
const tabs = computed(() => shown.value.filter((t) => t.place === place))
</script>

<template>
  <nav v-if="tabs.length > 1" class="tabs" aria-label="Tabs of this place">
    <RouterLink
      v-for="t in tabs"
      :key="t.to"
      :to="t.to"
      :class="{ active: isAt(t, route.path) }"
      :aria-current="isAt(t, route.path) ? 'page' : undefined"
      >{{ t.label }}<span v-if="badge(t.to)" class="badge">{{ badge(t.to) }}</span></RouterLink
    >
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  padding: 0 20px;
  border-bottom: 1px solid var(--line);
  background: var(--sheet);
}
.tabs a {
  display: flex;
  align-items: center;
  gap: 6px;
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
.badge {
  background: var(--copper-wash);
  color: var(--copper);
  border-radius: 9px;
  font-size: 11.5px;
  font-weight: 600;
  padding: 1px 7px;
}
</style>
