<script setup lang="ts">
import { ref } from 'vue'
import DirectoryImport from './DirectoryImport.vue'
import DirectorySection from './DirectorySection.vue'
import DirectorySources from './DirectorySources.vue'

/** Who there is, and where that is known from. */
const importing = ref(false)
</script>

<template>
  <main class="page">
    <header>
      <h1>Directory</h1>
      <span class="quiet small">people, groups and places, each as its source says it</span>
      <el-button class="right" type="primary" @click="importing = true">Take in files</el-button>
    </header>
    <DirectorySources />
    <DirectorySection />
    <DirectoryImport v-if="importing" @close="importing = false" />
  </main>
</template>

<style scoped>
.page {
  max-width: 1120px;
  margin: 0 auto;
  padding: 24px 20px 40px;
  display: grid;
  gap: 14px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
h1 {
  font-size: 25px;
}
.right {
  margin-left: auto;
}
</style>
