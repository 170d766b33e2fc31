<script setup lang="ts">
import { computed } from 'vue'

const { values, colour, label } = defineProps<{ values: readonly number[]; colour: string; label: string }>()
const points = computed(() => {
  const [least, most] = [Math.min(...values), Math.max(...values)]
  const span = most - least || 1
  return values
    .map((v, i) => `${2 + (i * 80) / Math.max(1, values.length - 1)},${26 - ((v - least) / span) * 22}`)
    .join(' ')
})
const told = computed(() => `${label}, month by month: ${values.map((v) => Math.round(v * 10) / 10).join(', ')}`)
</script>

<template>
  <svg width="84" height="30" viewBox="0 0 84 30" role="img" :aria-label="told">
    <title>{{ told }}</title>
    <polyline :points="points" fill="none" :stroke="`var(--${colour})`" stroke-width="1.800" />
  </svg>
</template>
