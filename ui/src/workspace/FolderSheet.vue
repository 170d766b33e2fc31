<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { bytes, moment } from '@/shared/format'
import StateMark from '@/shared/StateMark.vue'
import { gradeWords } from '@/shared/words'

/** What lies in a folder of a library. */
defineProps<{ folder: Schemas['FolderView'] }>()
const emit = defineEmits<{ enter: [name: string]; open: [file: number] }>()
</script>

<template>
  <table class="sheet">
    <thead>
      <tr>
        <th>Name</th>
        <th>Changed</th>
        <th>By</th>
        <th class="num">Size</th>
        <th>Standing</th>
        <th>Protection</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="f in folder.folders" :key="f">
        <td colspan="6">
          <button class="link" @click="emit('enter', f)">{{ f }}/</button>
        </td>
      </tr>
      <tr v-for="f in folder.files" :key="f.id">
        <td>
          <button class="link" @click="emit('open', f.id)">{{ f.name }}</button>
        </td>
        <td>{{ moment(f.at) }}</td>
        <td>{{ f.by ?? '–' }}</td>
        <td class="num">{{ bytes(f.bytes) }}</td>
        <td><StateMark :state="f.state" /></td>
        <td>{{ f.grade === 'none' ? '–' : gradeWords[f.grade] }}</td>
      </tr>
    </tbody>
  </table>
  <p v-if="folder.files.length + folder.folders.length === 0" class="quiet">Nothing lies here yet.</p>
</template>

<style scoped>
p {
  margin: 0;
}
</style>
