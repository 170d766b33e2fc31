<script setup lang="ts">
import { count } from './format'

/** Beneath a list that shows its first rows: how many there are in all, and a button for more of them. */
const shown = defineModel<number>({ required: true })
const { of, step = 200 } = defineProps<{ of: number; step?: number }>()
</script>

<template>
  <p v-if="of > shown" class="more">
    <el-button size="small" @click="shown += step">Show more of {{ count(of) }}</el-button>
  </p>
</template>

<style scoped>
.more {
  margin: 6px 0 0;
}
</style>
