<script setup lang="ts">
import { bytes, count } from '@/shared/format'

interface Found {
  id: number
  name: string
  items: number
  bytes: number
}
/** How much was found in each container, or of each custodian; each number opens into its items. */
defineProps<{ of: 'Container' | 'Custodian'; found: readonly Found[] }>()
const emit = defineEmits<{ look: [Found] }>()
</script>

<template>
  <table class="sheet" :aria-label="`By ${of.toLowerCase()}`">
    <thead>
      <tr>
        <th>{{ of }}</th>
        <th class="num">items</th>
        <th class="num">size</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="f in found" :key="f.id">
        <td>{{ f.name }}</td>
        <td class="num">
          <button v-if="f.items" class="link" @click="emit('look', f)">
            {{ count(f.items) }}</button><span v-else>0</span>
        </td>
        <td class="num">{{ bytes(f.bytes) }}</td>
      </tr>
    </tbody>
  </table>
</template>
