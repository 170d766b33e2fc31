<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { activitySearch } from './own'

/** Events of channels that an order would keep no longer after a release. */
const { matter, order, narrowed, delay } = defineProps<{
  matter: number
  order: Schemas['OrderView']
  narrowed: Schemas['HoldDefinition'] | null
  delay: number
}>()
const { data, error } = useQuery({
  queryKey: computed(() => ['release', order.id, order.revision, JSON.stringify(narrowed), delay, 'events']),
  queryFn: () =>
    take(
      api.POST('/api/matters/{id}/orders/{order}/releases/events', {
        params: { path: { id: matter, order: order.id }, query: { delay } },
        body: { narrowed },
      }),
    ),
  enabled: computed(() => !!order.inForce?.channels?.length),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <p v-else-if="data" class="small">
    Of
    <RouterLink v-if="may('readActivity')" :to="activitySearch(data.question)">the channels</RouterLink
    ><template v-else>the channels</template>, {{ plural(data.events, 'event') }} would be kept no longer by this
    order<template v-if="data.events"
      >: {{ count(data.stayHeld) }} kept by other orders,
      <strong :class="{ lacking: data.pastTime }">{{ count(data.pastTime) }}</strong> past their time, which the next
      sealing removes</template
    >.
  </p>
</template>
