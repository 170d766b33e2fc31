<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'

/** The parameters that a statement names, each with its type and its value. */
const parameters = defineModel<Schemas['StatementParameter'][]>({ required: true })
const types: Record<Schemas['StatementValue'], { word: string; hint: string }> = {
  text: { word: 'text', hint: '' },
  number: { word: 'number', hint: '12.5' },
  day: { word: 'day', hint: '2026-06-15' },
  moment: { word: 'moment', hint: '2026-06-15T08:00:00Z' },
}
</script>

<template>
  <p class="fields" aria-label="Parameters">
    <span v-for="p in parameters" :key="p.name" class="field">
      <label :for="`parameter-${p.name}`"
        ><code>${{ p.name }}</code></label
      >
      <el-select v-model="p.type" size="small" class="type" :aria-label="`Type of ${p.name}`"
        ><el-option v-for="(t, key) in types" :key="key" :value="key" :label="t.word"
      /></el-select>
      <el-input
        :id="`parameter-${p.name}`"
        :model-value="p.value ?? ''"
        size="small"
        class="value"
        :placeholder="types[p.type].hint || 'empty is NULL'"
        @update:model-value="(value: string) => (p.value = value)"
      />
    </span>
  </p>
</template>

<style scoped>
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
}
.field {
  display: flex;
  align-items: center;
  gap: 6px;
}
.type {
  width: 92px;
}
.value {
  width: 190px;
}
</style>
