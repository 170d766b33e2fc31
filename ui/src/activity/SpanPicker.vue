<script setup lang="ts">
/** How far back a place looks. */
const days = defineModel<string>({ required: true })
const choices = [
  { value: '1', label: 'a day' },
  { value: '7', label: 'a week' },
  { value: '30', label: '30 days' },
  { value: '90', label: '90 days' },
  { value: 'all', label: 'all' },
]
</script>

<template>
  <el-radio-group v-model="days" size="small" aria-label="How far back"
    ><el-radio-button v-for="c in choices" :key="c.value" :value="c.value">{{
      c.label
    }}</el-radio-button></el-radio-group
  >
</template>
