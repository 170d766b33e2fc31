<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { bytes, count, moment, plural } from '@/shared/format'

/** What a run of a sweep found, in a paragraph whose figures open. */
const { matter, run, figures } = defineProps<{
  matter: number
  run: Schemas['RunView']
  figures: Schemas['SweepFigures']
}>()
const emit = defineEmits<{ look: [title: string, query: Record<string, string>]; unreadable: [] }>()
const items = () => plural(run.items, 'item')
</script>

<template>
  <p class="found">
    Run {{ moment(run.at) }}: <button class="link" @click="emit('look', `${items()} found`, {})">{{ items() }}</button>,
    {{ bytes(run.bytes) }}; as documents
    <button v-if="run.items" class="link" @click="emit('look', `The ${items()} that these documents belong to`, {})">
      {{ count(figures.documents) }}</button><template v-else>0</template>, with their families
    <button v-if="run.items" class="link" @click="emit('look', `The ${items()} of these families`, {})">
      {{ count(figures.families) }}</button><template v-else>0</template>.
    <template v-if="figures.added !== null"
      >Against the run before:
      <button v-if="figures.added" class="link" @click="emit('look', 'New since the run before', { change: 'added' })">
        {{ count(figures.added) }} new</button
      ><template v-else>none new</template>,
      <button
        v-if="figures.gone"
        class="link"
        @click="emit('look', 'Found by the run before, and no longer', { change: 'gone' })"
      >
        {{ count(figures.gone) }} gone</button
      ><template v-else>none gone</template>.</template
    >{{ ' ' }}
    <template v-if="figures.versions"
      ><button class="link" @click="emit('look', 'With a former version that fits', { former: 'fits' })">
        {{ plural(figures.versions, 'former version') }}</button
      >{{ ' ' }}{{ figures.versions === 1 ? 'fits' : 'fit'
      }}<template v-if="figures.onlyFormer"
        >;
        <button class="link" @click="emit('look', 'Found by a former version alone', { former: 'only' })">
          {{ plural(figures.onlyFormer, 'item') }}</button>{{ ' '
        }}{{ figures.onlyFormer === 1 ? 'was' : 'were' }} found by that alone</template
      >.{{ ' ' }}</template
    >
    <template v-if="figures.unreadable"
      ><button class="link" @click="emit('unreadable')">{{ plural(figures.unreadable, 'file') }}</button> in these
      places {{ figures.unreadable === 1 ? 'was' : 'were' }} not read whole, so not all of
      {{ figures.unreadable === 1 ? 'its' : 'their' }} words are known.{{ ' ' }}</template
    >
    <a :href="`/api/matters/${matter}/runs/${run.id}/items.csv`" download>List of ids (CSV)</a>
  </p>
</template>

<style scoped>
.found {
  max-width: 80ch;
}
</style>
