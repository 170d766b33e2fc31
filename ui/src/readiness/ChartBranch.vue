<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'

/** One person of the chart with those who report to them; deep loops of managers end at twenty. */
const { mail, people, depth } = defineProps<{
  mail: string
  people: ReadonlyMap<string, Schemas['ChartPersonView']>
  depth: number
}>()
const person = computed(() => people.get(mail))
const open = ref(depth < 1)
</script>

<template>
  <li v-if="person && depth < 20">
    <button v-if="person.reports.length" class="link" :aria-expanded="open" @click="open = !open">
      {{ open ? '▾' : '▸' }} {{ person.name }}
    </button>
    <span v-else class="leaf">{{ person.name }}</span>
    <span class="small quiet title"
      >{{ person.title }}{{ person.reports.length ? ` · ${person.reports.length}` : '' }}</span
    >
    <ul v-if="open && person.reports.length">
      <ChartBranch v-for="r in person.reports" :key="r" :mail="r" :people="people" :depth="depth + 1" />
    </ul>
  </li>
</template>

<style scoped>
ul {
  list-style: none;
  padding-left: 18px;
  margin: 0;
}
.title {
  padding-left: 6px;
}
.leaf {
  padding-left: 14px;
}
</style>
