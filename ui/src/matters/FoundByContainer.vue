<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { bytes, count, plural } from '@/shared/format'

/** How much a draft finds in each container; each number opens into its items. */
defineProps<{ places: readonly Schemas['PlaceFigures'][] }>()
const emit = defineEmits<{ look: [container: number, title: string] }>()
</script>

<template>
  <details class="small">
    <summary>By container ({{ places.length }})</summary>
    <table class="sheet">
      <tbody>
        <tr v-for="p in places" :key="p.id">
          <td>{{ p.name }}</td>
          <td class="num">
            <button class="link" @click="emit('look', p.id, `${plural(p.items, 'item')} found in ${p.name}`)">
              {{ count(p.items) }}
            </button>
          </td>
          <td class="num">{{ bytes(p.bytes) }}</td>
        </tr>
      </tbody>
    </table>
  </details>
</template>
