<script setup lang="ts">
import ScheduleTabs from './ScheduleTabs.vue'

/** A part of the schedule that is one page rather than a workbench. */
defineProps<{ title: string; note?: string; problem?: string | null }>()
</script>

<template>
  <div class="part-of-schedule">
    <ScheduleTabs />
    <main class="page">
      <header><h1>{{ title }}</h1><span v-if="note" class="quiet">{{ note }}</span><span class="right"><slot name="acts" /></span></header>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <slot />
    </main>
  </div>
</template>

<style scoped>
.part-of-schedule { height: 100%; overflow: auto }
.page { max-width: 1080px; margin: 0 auto; padding: 18px 20px 40px; display: grid; grid-template-columns: minmax(0, 1fr); gap: 16px }
header { display: flex; align-items: baseline; gap: 12px; flex-wrap: wrap }
.right { margin-left: auto; display: flex; gap: 8px; align-items: center }
.right :deep(.el-button) { margin: 0 }
h1 { font-size: 25px }
</style>
<style>
.sheet { width: 100%; border-collapse: collapse; font-size: 13.5px }
.sheet th, .sheet td { text-align: left; padding: 6px 12px 6px 0; border-bottom: 1px solid var(--line); vertical-align: top }
.sheet th { font-size: 12px; color: var(--ink-2); font-weight: 600 }
.sheet .num { text-align: right }
.sheet .num + :not(.num) { padding-left: 18px }
.sheet .link { text-align: left }
.sheet tr.open td { background: var(--sea-wash) }
.sheet tr.open .quiet { color: var(--ink-2) }
.block { padding: 16px 20px; display: grid; grid-template-columns: minmax(0, 1fr); gap: 12px }
.block h2 { font-size: 18px }
.block > p { margin: 0 }
.lacking { color: var(--copper) }
.block input[type='file'], .el-dialog input[type='file'] { font: inherit; color: var(--ink) }
.fields { display: grid; gap: 6px }
.fields p { margin: 0 }
.acts-row { display: flex; flex-wrap: wrap; gap: 8px; margin: 0; align-items: center }
.acts-row .el-button { margin: 0 }
</style>
