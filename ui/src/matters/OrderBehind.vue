<script setup lang="ts">
import { api, take, type Schemas } from '@/shared/api/client'
import GroupList from '@/shared/GroupList.vue'

/** The items behind one figure of an order's consequences. */
defineProps<{
  matter: number
  order: number
  behind: { group: string; title: string; container?: number }
  /** The definition that the figures are of, as JSON. */
  asked: string
}>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <GroupList
    :id="['order', order, behind.group, behind.container, asked]"
    :title="behind.title"
    :load="
      () =>
        take(
          api.POST('/api/matters/{id}/orders/{order}/consequences/{group}', {
            params: {
              path: { id: matter, order, group: behind.group },
              query: { container: behind.container },
            },
            body: JSON.parse(asked) as Schemas['HoldDefinition'],
          }),
        )
    "
    @close="emit('close')"
  />
</template>
