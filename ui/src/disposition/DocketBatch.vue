<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { count, monthWords } from '@/shared/format'
import { grace } from './grace'

type Batch = Schemas['BatchView']
/** A batch as an entry of the docket. */
const { batch } = defineProps<{ batch: Batch; open: boolean }>()
const emit = defineEmits<{ open: [] }>()
const ended = () => batch.state === 'done' || batch.state === 'withdrawn'
const where = (b: Batch) =>
  ({
    open: `stage 1 of ${b.stages.length}`,
    signing: `${b.signOffs.length} of ${b.stages.length} signed`,
    executing: 'at work',
    done: `${count(b.destroyed)} destroyed`,
    withdrawn: 'withdrawn',
  })[b.state]
</script>

<template>
  <button class="entry" :class="{ open }" :aria-current="open" @click="emit('open')">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <rect v-if="ended()" x="1" y="4.500" width="10" height="3" fill="var(--sea)" />
      <path
        v-else
        d="M6 1 11 6 6 11 1 6Z"
        :fill="batch.mayNotSign ? 'none' : 'var(--copper)'"
        stroke="var(--copper)"
        stroke-width="1.500"
      />
    </svg>
    <span class="what"
      ><strong>{{ batch.series.title }}</strong
      ><small v-if="ended()" class="quiet"
        >{{ batch.series.code }} · {{ where(batch)
        }}<template v-if="batch.certificateNumber"> · certificate {{ batch.certificateNumber }}</template></small
      ><small v-else class="quiet"
        >{{ batch.series.code }} · <template v-if="batch.month">{{ monthWords(batch.month) }} · </template
        >{{ where(batch) }} · <span v-if="batch.overdue" class="late">overdue</span
        ><template v-else>{{ grace(batch.graceEnds) }}</template></small
      ></span
    ><span class="num">{{ count(batch.lines) }}</span>
  </button>
</template>

<style scoped>
.late {
  color: var(--copper);
  font-weight: 600;
}
</style>
