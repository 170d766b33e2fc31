<script setup lang="ts">
import { computed } from 'vue'
import type { Problem, Schemas } from '@/shared/api/client'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'

/** Asks why a draft is put into effect, and says once more what it does. */
const { definition, figures } = defineProps<{
  definition: Schemas['SeriesDefinition']
  figures: Schemas['ConsequencesView'] | null
  /** What its button says. */
  says: string
  /** It becomes WORM, which nobody takes back. */
  worm: boolean
  busy: boolean
  problem: Problem | null
}>()
const emit = defineEmits<{ go: [why: string]; close: [] }>()
const due = computed(() => figures?.figures.becomeDue.items ?? 0)
const reach = computed(() => figures?.figures.inReach.items ?? 0)
const thenWhat = computed(() => {
  const one = due.value === 1
  return definition.atEnd === 'signOff'
    ? ` and ${one ? 'waits' : 'wait'} for sign-off`
    : ' and may be destroyed without sign-off'
})
</script>

<template>
  <WhyDialog
    title="Put into effect"
    :says="says"
    :danger="!!due || worm"
    :word="worm ? 'for good' : null"
    :busy="busy"
    :problem="problem"
    label="Why, for the version’s history"
    @go="emit('go', $event)"
    @close="emit('close')"
  >
    <p v-if="figures?.secondPerson">Another person must agree before anything changes: {{ figures?.secondPerson }}.</p>
    <p v-if="worm">
      It is WORM: what is under it can never be taken off, changed, deleted or kept for a shorter time, by anyone.
    </p>
    <p v-if="!figures?.secondPerson">
      {{
        reach === 0
          ? 'No item is filed under it yet.'
          : `${plural(reach, 'item is', 'items are')} ruled by it from now on; ${becomeDue(due)}${due ? thenWhat : ''}.`
      }}
    </p>
  </WhyDialog>
</template>
