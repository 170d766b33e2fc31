<script setup lang="ts">
import { ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import GroupList from '@/shared/GroupList.vue'
import VersionDialog from './VersionDialog.vue'

/** The items behind a figure of what an order keeps, each with what it held before. */
const { matter, order, title, query } = defineProps<{
  matter: number
  order: Schemas['OrderView']
  title: string
  query: Record<string, boolean>
}>()
const emit = defineEmits<{ close: [] }>()
const versions = ref<{ id: number; title: string } | null>(null)
const load = () =>
  take(api.GET('/api/matters/{id}/orders/{order}/items', { params: { path: { id: matter, order: order.id }, query } }))
</script>

<template>
  <GroupList :id="['order', order.id, title, order.revision]" :title="title" :load="load" @close="emit('close')"
    ><template #versions="{ item }"
      ><button class="link" :aria-label="`Versions of ${item.title}`" @click="versions = item">Open</button></template
    ></GroupList
  >
  <VersionDialog
    v-if="versions"
    :matter="matter"
    :item="versions.id"
    :title="versions.title"
    :words="order.inForce?.query ?? ''"
    @close="versions = null"
  />
</template>
