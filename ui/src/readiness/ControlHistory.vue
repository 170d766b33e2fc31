<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import History from '@/shared/History.vue'
import { verbWords } from '@/shared/words'

/** What was done to a control and its parts, each change with what it was before. */
const { id } = defineProps<{ id: number }>()
const { data } = useQuery({
  queryKey: computed(() => ['readiness', 'history', id]),
  queryFn: () => take(api.GET('/api/controls/{id}/history', { params: { path: { id } } })),
})
type Facts = Record<string, unknown>
/** A field as words: needsReview is needs review. */
const fieldWords = (name: string) => name.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`)
const text = (value: unknown) => (value === null || value === undefined || value === '' ? 'none' : String(value))
function say(entry: Schemas['LedgerView']) {
  const [before, after] = [(entry.before ?? {}) as Facts, (entry.after ?? {}) as Facts]
  const about = ['title', 'part', 'evidence', 'routine', 'test'].map((n) => after[n] ?? before[n]).find(Boolean)
  const changed = Object.keys(after).filter((n) => n in before && text(before[n]) !== text(after[n]))
  return [
    [verbWords(entry.verb), about && `“${text(about)}”`].filter(Boolean).join(' '),
    ...changed.map((n) => `${fieldWords(n)}: ${text(before[n])} → ${text(after[n])}`),
  ].join('; ')
}
</script>

<template><History :entries="data ?? []" :say="say" /></template>
