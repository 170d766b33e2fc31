<script setup lang="ts">
import { computed, onMounted, useTemplateRef } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'
import { actionWords } from './words'

/** One event of a thread. */
const { event, here } = defineProps<{
  event: Schemas['EventView']
  /** The thread was begun at it. */
  here: boolean
  pinned: boolean
  canPin: boolean
}>()
const emit = defineEmits<{ go: []; pin: [] }>()
const says = computed(
  () =>
    [actionWords(event.action), event.object, event.target && `→ ${event.target}`].filter(Boolean).join(' ') +
    (event.outcome === 'failure' ? `, which failed (${event.code ?? 'no reason given'})` : ''),
)
const line = useTemplateRef<HTMLElement>('line')
onMounted(() => here && line.value?.scrollIntoView({ block: 'center' }))
</script>

<template>
  <li ref="line" :class="{ here, failed: event.outcome === 'failure' }" :aria-current="here">
    <time :datetime="event.time" :title="event.time">{{ moment(event.time) }}</time>
    <div class="says">
      <strong>{{ event.actor ?? 'Somebody' }}</strong>
      {{ ' ' }}{{ says }}
      <div class="small quiet">
        {{
          [event.address, event.network, event.place, event.device, event.application, event.channel]
            .filter(Boolean)
            .join(' · ')
        }}
      </div>
    </div>
    <span class="acts">
      <span v-if="here" class="small">here</span>
      <button v-else class="link small" @click="emit('go')">Go on from here</button>
      <span v-if="pinned" class="small pinned">◆ pinned</span>
      <button v-else-if="canPin" class="link small" @click="emit('pin')">Pin</button>
    </span>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 14px;
  padding: 7px 10px;
  border-left: 2px solid var(--line-2);
  border-bottom: 1px solid var(--line);
}
li.here {
  background: var(--sea-wash);
  border-left-color: var(--sea);
}
li.failed {
  border-left-color: var(--copper);
}
time {
  color: var(--ink-2);
  font-size: 13px;
}
.says {
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 12px;
  align-items: start;
  white-space: nowrap;
}
.pinned {
  color: var(--sea);
}
li.here .quiet {
  color: var(--ink-2);
}
</style>
