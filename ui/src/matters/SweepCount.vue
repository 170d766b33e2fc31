<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, plural } from '@/shared/format'

type Definition = Schemas['HoldDefinition']
/** How much a definition that is being written finds now, and what is odd about its days. */
const { matter, definition } = defineProps<{ matter: number; definition: Definition }>()
const asked = refDebounced(
  computed(() => JSON.stringify(definition)),
  250,
)
const counted = useQuery({
  queryKey: computed(() => ['sweep-count', matter, asked.value]),
  queryFn: () =>
    take(
      api.POST('/api/matters/{id}/count', {
        params: { path: { id: matter } },
        body: JSON.parse(asked.value) as Definition,
      }),
    ),
  placeholderData: keepPreviousData,
})
const says = computed(() =>
  counted.error.value
    ? counted.error.value.message
    : counted.data.value
      ? `Finds ${plural(counted.data.value.found.items, 'item')} now, ${bytes(counted.data.value.found.bytes)}.`
      : 'Counting …',
)
</script>

<template>
  <p class="small quiet" role="status">{{ says }}</p>
  <p v-if="counted.data.value?.remark" class="problem" role="status">{{ counted.data.value.remark }}</p>
</template>

<style scoped>
p {
  margin: 4px 0 0;
}
</style>
