<script setup lang="ts">
/** A part of the schedule that is one page rather than a workbench. */
defineProps<{ title: string; note?: string; problem?: string | null; within?: { to: string; label: string } }>()
</script>

<template>
  <div class="part-of-schedule">
    <main class="page">
      <header>
        <RouterLink v-if="within" :to="within.to" class="small">{{ within.label }}</RouterLink>
        <h1>{{ title }}</h1>
        <span v-if="note" class="quiet">{{ note }}</span><span class="right"><slot name="acts" /></span>
      </header>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <slot />
    </main>
  </div>
</template>

<style scoped>
.part-of-schedule {
  height: 100%;
  overflow: auto;
}
.page {
  max-width: 1080px;
  margin: 0 auto;
  padding: 18px 20px 40px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 16px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  flex-wrap: wrap;
}
.right {
  margin-left: auto;
  display: flex;
  gap: 8px;
  align-items: center;
}
.right :deep(.el-button) {
  margin: 0;
}
h1 {
  font-size: 25px;
}
</style>
