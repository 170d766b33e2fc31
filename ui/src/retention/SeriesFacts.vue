<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { bytes, count, plural } from '@/shared/format'

/** What is filed under a series, and what belongs there. */
defineProps<{ row: Schemas['SeriesDetail']['row']; definition: Schemas['SeriesDefinition'] }>()
</script>

<template>
  <dl class="kv facts">
    <dt>Filed under it</dt>
    <dd>
      <RouterLink :to="`/content?series=${row.id}`">{{ plural(row.items, 'item') }}</RouterLink>,
      {{ bytes(row.bytes) }}
    </dd>
    <dt>Due now</dt>
    <dd>
      <RouterLink v-if="row.due" :to="`/schedule/docket?due=${row.id}`">{{ count(row.due) }}</RouterLink><span v-else
        >none</span
      >
    </dd>
    <dt>Waiting</dt>
    <dd>
      <RouterLink v-if="row.waiting" :to="`/content?series=${row.id}&state=awaitingEvent`">{{
        count(row.waiting)
      }}</RouterLink><span v-else>none</span>
    </dd>
    <template v-if="definition.description"
      ><dt>Holds</dt>
      <dd>{{ definition.description }}</dd></template
    >
    <template v-if="definition.guidance"
      ><dt>Guidance</dt>
      <dd>{{ definition.guidance }}</dd></template
    >
  </dl>
</template>

<style scoped>
.facts {
  border-top: 1px solid var(--line);
  padding-top: 14px;
}
</style>
