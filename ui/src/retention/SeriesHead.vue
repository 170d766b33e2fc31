<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'

/** Which series it is, and whether it rules. */
defineProps<{
  series: Schemas['SeriesDetail']
  title: string
  /** Something of it is written that is not in force. */
  draft: boolean
}>()
</script>

<template>
  <header>
    <p class="small quiet">
      {{ series.row.function || 'Without a function' }} · {{ series.row.code }} · {{ series.row.unit
      }}<template v-if="series.version"> · version {{ series.version }}</template
      ><template v-if="series.draft"> · draft of {{ moment(series.draftAt) }} by {{ series.draftBy }}</template>
    </p>
    <h1>{{ title }}</h1>
    <p class="tags">
      <span v-if="series.row.state === 'retired'" class="tag"><i class="ring" />Retired</span>
      <span v-else-if="series.inForce" class="tag sea"><i class="bar" />In force</span>
      <span v-else class="tag"><i class="ring" />No rule yet</span>
      <span v-if="draft" class="tag copper"><i class="ring" />Draft not yet in force</span>
    </p>
  </header>
</template>

<style scoped>
header p {
  margin: 0;
}
h1 {
  font-size: 25px;
  line-height: 1.25;
  overflow-wrap: anywhere;
}
.tags {
  display: flex;
  gap: 6px;
  margin-top: 6px !important;
}
.tag {
  display: inline-flex;
  align-items: center;
  gap: 7px;
  font-size: 12.5px;
  font-weight: 600;
  padding: 2px 9px;
  border-radius: var(--radius);
  background: var(--sheet-2);
  border: 1px solid transparent;
}
.tag.sea {
  color: var(--sea);
  background: var(--sea-wash);
}
.tag.copper {
  color: var(--copper);
  background: var(--copper-wash);
}
.bar {
  width: 9px;
  height: 3px;
  background: currentColor;
}
.ring {
  width: 9px;
  height: 9px;
  border: 2px solid currentColor;
  border-radius: 50%;
}
</style>
