<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { count, day, moment } from '@/shared/format'
import { roleWords } from '@/shared/words'

/** Who signed, and who signs next until when. */
defineProps<{ batch: Schemas['BatchView'] }>()
</script>

<template>
  <ol class="stages" aria-label="Stages">
    <li v-for="(stage, i) in batch.stages" :key="i" :class="{ signed: i < batch.signOffs.length }">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <circle
          cx="7"
          cy="7"
          r="5.500"
          :fill="i < batch.signOffs.length ? 'currentColor' : 'none'"
          stroke="currentColor"
          stroke-width="1.500"
        />
      </svg>
      <span v-if="batch.signOffs[i]"
        ><strong>{{ batch.signOffs[i]!.by }}</strong> signed stage {{ i + 1 }}, {{ moment(batch.signOffs[i]!.at) }}
        <span class="quiet"
          >after {{ count(batch.signOffs[i]!.linesOpened) }} of {{ count(batch.signOffs[i]!.lines) }} had been opened:
          “{{ batch.signOffs[i]!.comment }}”</span
        ></span
      >
      <span v-else
        >Stage {{ i + 1 }}: {{ stage.person || `a ${roleWords[stage.role]}`
        }}<template v-if="stage.deputy">, deputy {{ stage.deputy }}</template
        ><template v-if="i === batch.signOffs.length && batch.stageDue"
          >,
          <span :class="{ copper: batch.overdue }"
            >{{ batch.overdue ? 'overdue since' : 'until' }} {{ day(batch.stageDue) }}</span
          ></template
        ></span
      >
    </li>
  </ol>
</template>

<style scoped>
.stages {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 5px;
}
.stages li {
  display: grid;
  grid-template-columns: 20px 1fr;
  align-items: baseline;
  color: var(--ink-2);
}
.stages li.signed {
  color: var(--sea);
}
.stages strong,
.stages .signed span {
  color: var(--ink);
}
.stages svg {
  align-self: center;
}
.copper {
  color: var(--copper);
}
</style>
