<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from './api/client'

const { item } = defineProps<{ item: number }>()
const { data, error } = useQuery({
  queryKey: computed(() => ['preview', item]),
  queryFn: () => take(api.GET('/api/items/{id}/preview', { params: { path: { id: item } } })),
})
/** Nothing in it can run, and nothing can be fetched from anywhere. */
const page = computed(
  () =>
    `<!doctype html><meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'"><style>body{font:14px/1.5 sans-serif;margin:12px;color:#14302f;background:#fffdf9}td,th{border:1px solid #c4baa6;padding:3px 8px;text-align:left}table{border-collapse:collapse}</style>${data.value?.content ?? ''}`,
)
</script>

<template>
  <section class="preview panel" aria-label="Preview">
    <p v-if="error" class="problem pad">{{ error.message }}</p>
    <template v-else-if="data">
      <p v-if="data.note" class="small quiet pad note">{{ data.note }}</p>
      <iframe v-if="data.kind === 'html'" title="Preview of the page" sandbox="" :srcdoc="page" />
      <img v-else-if="data.kind === 'image'" :src="data.content!" alt="The image in this file" />
      <pre v-else-if="data.kind === 'text'" tabindex="0">{{ data.content }}</pre>
    </template>
  </section>
</template>

<style scoped>
.preview { min-height: 60px; overflow: hidden }
.pad { padding: 8px 14px; margin: 0 }
.note { border-bottom: 1px solid var(--line); background: var(--sheet-2) }
pre { margin: 0; padding: 12px 14px; white-space: pre-wrap; overflow-wrap: anywhere; font: 13.5px/1.55 var(--sans); max-height: 420px; overflow: auto }
iframe { width: 100%; height: 320px; border: 0; display: block }
img { max-width: 100%; display: block; margin: auto }
</style>
