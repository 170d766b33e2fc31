<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { bytes, count, day, moment, monthWords, plural } from '@/shared/format'

/** Which batch it is, and how much of it has which mark. */
defineProps<{ batch: Schemas['BatchView'] }>()
</script>

<template>
  <header>
    <p class="small quiet">
      Batch {{ batch.id }} ·
      <RouterLink v-if="batch.series.id" :to="`/schedule/${batch.series.id}`">{{
        batch.series.code
      }}</RouterLink><RouterLink v-else to="/schedule/blankets">{{ batch.series.code }}</RouterLink> ·
      {{ batch.unit }} · opened by {{ batch.openedBy }}, {{ moment(batch.openedAt) }}
    </p>
    <h1>
      {{ batch.series.title }}<template v-if="batch.month">, {{ monthWords(batch.month) }}</template>
    </h1>
    <p class="counts">
      {{ plural(batch.lines, 'item') }}, {{ bytes(batch.bytes) }}, due since {{ day(batch.oldest) }} ·
      <template
        v-for="[n, w] in (
          [
            [batch.toDestroy, 'to destroy'],
            [batch.toTransfer, 'to hand over'],
            [batch.toExtend, 'to extend'],
            [batch.toRefile, 'to re-file'],
            [batch.asked, batch.asked === 1 ? 'question open' : 'questions open'],
          ] as const
        ).filter(([n]) => n)"
        :key="w"
        ><strong>{{ count(n) }}</strong> {{ w }} ·
      </template>
      {{ count(batch.opened) }} of {{ count(batch.lines) }} opened
    </p>
  </header>
</template>

<style scoped>
header p {
  margin: 0;
}
h1 {
  font-size: 23px;
}
</style>
