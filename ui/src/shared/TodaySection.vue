<script setup lang="ts">
/** Duties that are settled on Today itself; nothing where there are none. */
defineProps<{ title: string; label: string; count: number }>()
</script>

<template>
  <section v-if="count" class="panel work" :aria-label="label">
    <h2>{{ title }} · {{ count }}</h2>
    <ul>
      <slot />
    </ul>
  </section>
</template>

<style scoped>
.work {
  box-shadow: var(--shadow);
  margin-bottom: 16px;
}
h2 {
  font: 600 12.5px var(--sans);
  color: var(--ink-2);
  background: var(--sheet-2);
  padding: 6px 20px;
  border-bottom: 1px solid var(--line);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
