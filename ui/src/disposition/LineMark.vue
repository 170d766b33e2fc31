<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'

/** What a line of a batch is marked as, and what was done with it once it is carried out. */
defineProps<{ line: Schemas['LineView'] }>()
const outcomes: Record<Schemas['LineState'], string> = {
  waiting: '',
  destroying: 'being destroyed',
  bundled: 'in the bundle',
  destroyed: 'destroyed',
  transferred: 'handed over',
  refiled: 're-filed',
  extended: 'extended',
  droppedOut: 'dropped out',
  failed: 'failed',
}
</script>

<template>
  <span v-if="line.state !== 'waiting'" :title="line.outcome ?? undefined">{{ outcomes[line.state] }}</span><span
    v-else-if="line.mark === 'extend'"
    class="sea"
    :title="line.extendWhy ?? undefined"
    >extend to {{ day(line.extendUntil) }}</span
  ><span v-else-if="line.mark === 'refile'" class="sea">re-file under {{ line.refileTo?.code }}</span
  ><span v-else-if="line.mark === 'transfer'" class="sea">hand over</span
  ><span v-else-if="line.mark === 'ask'" class="copper" :title="line.question?.text">{{
    line.question?.answer ? 'answered' : `asked ${line.question?.askedOf}`
  }}</span
  ><span v-else class="copper">destroy</span>
</template>

<style scoped>
.sea {
  color: var(--sea);
}
.copper {
  color: var(--copper);
}
</style>
