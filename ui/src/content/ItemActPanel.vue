<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { gathered } from '@/shared/parts'

/** The panel of one act that a part offers for items; nothing where no part offers it. */
const { act } = defineProps<{ act: string; selection: Schemas['ItemQuery']; items: number; suggested?: number }>()
const emit = defineEmits<{ close: []; done: [] }>()
const offered = gathered((p) => p.itemActs).find((a) => a.key === act)
</script>

<template>
  <component
    :is="offered.component"
    v-if="offered"
    :selection="selection"
    :items="items"
    :suggested="suggested"
    @close="emit('close')"
    @done="emit('done')"
  />
</template>
