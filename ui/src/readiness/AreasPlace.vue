<script setup lang="ts">
import { computed } from 'vue'
import { useUrl } from '@/shared/url'
import AreaTabs from './AreaTabs.vue'
import ChangesArea from './ChangesArea.vue'
import IncidentsArea from './IncidentsArea.vue'
import PeopleArea from './PeopleArea.vue'
import RegisterArea from './RegisterArea.vue'
import TrainingArea from './TrainingArea.vue'

/** One page for each area, with the real things behind it. */
const chosen = useUrl().text('kind')
const kind = computed(() => chosen.value || 'people')
</script>

<template>
  <main class="page">
    <header>
      <h1>Areas</h1>
      <AreaTabs />
    </header>
    <PeopleArea v-if="kind === 'people'" />
    <TrainingArea v-else-if="kind === 'training'" />
    <ChangesArea v-else-if="kind === 'change'" />
    <template v-else>
      <template v-if="kind === 'incident'">
        <IncidentsArea />
        <h2>The register of incidents</h2>
      </template>
      <RegisterArea :key="kind" :kind="kind" />
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 12px;
  align-content: start;
  grid-auto-rows: max-content;
  grid-template-columns: minmax(0, 1fr);
}
header {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
h2 {
  font-size: 16px;
  margin: 10px 0 0;
}
</style>
