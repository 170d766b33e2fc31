<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, take, type Schemas } from '@/shared/api/client'
import Sentence from '@/shared/Sentence.vue'

type Definition = Schemas['SeriesDefinition']
/** The rule of a series as its sentence, with what can be chosen in its parts. */
const { id } = defineProps<{ id: number; definition: Definition; inForce: Definition | null; editable: boolean }>()
const emit = defineEmits<{ change: [Partial<Definition>] }>()
const fields = useQuery({
  queryKey: ['fields', id],
  queryFn: async () => {
    const page = await take(api.GET('/api/items', { params: { query: { series: [id], limit: 5 } } }))
    const details = await Promise.all(
      page.items.map((i) => take(api.GET('/api/items/{id}', { params: { path: { id: i.id } } }))),
    )
    return [...new Set(details.flatMap((d) => d.dates.map((x) => x.name)))].sort()
  },
})

const colleagues = useQuery({ queryKey: ['colleagues'], queryFn: () => take(api.GET('/api/colleagues')) })
const events = useQuery({ queryKey: ['trigger-event-types'], queryFn: () => take(api.GET('/api/trigger-event-types')) })
</script>

<template>
  <Sentence
    :definition="definition"
    :in-force="inForce"
    :editable="editable"
    :fields="fields.data.value ?? []"
    :events="events.data.value?.map((e) => e.name) ?? []"
    :colleagues="colleagues.data.value ?? []"
    @change="emit('change', $event)"
  />
</template>
