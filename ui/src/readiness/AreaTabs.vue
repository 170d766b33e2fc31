<script setup lang="ts">
import { useRoute } from 'vue-router'
import { areaLinks } from './words'

/** The areas, each with its page; those of the product's other places lead there. */
const route = useRoute()
const here = (to: string) => {
  const [path, query] = to.split('?kind=')
  return route.path === path && (query === undefined || (route.query.kind ?? 'people') === query)
}
</script>

<template>
  <nav aria-label="Areas" class="areas">
    <RouterLink v-for="(to, label) in areaLinks" :key="to" :to="to" :aria-current="here(to) ? 'page' : undefined">{{
      label
    }}</RouterLink>
  </nav>
</template>

<style scoped>
.areas {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}
a {
  padding: 4px 10px;
  border-radius: var(--radius);
  color: var(--ink);
  text-decoration: none;
  font-size: 13px;
}
a:hover {
  background: var(--sea-wash);
}
a[aria-current='page'] {
  background: var(--sea-wash);
  color: var(--sea);
  font-weight: 600;
}
</style>
