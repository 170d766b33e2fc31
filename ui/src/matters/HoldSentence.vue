<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import QueryField from '@/shared/QueryField.vue'
import SentencePart from '@/shared/SentencePart.vue'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'
import { rangeWords, reachWords } from './words'

type Definition = Schemas['HoldDefinition']
/** What an order keeps, or a sweep looks for, as one sentence whose parts are edited in place. */
const {
  definition,
  inForce = null,
  custodians,
  verb = 'Keep',
  editable = false,
} = defineProps<{
  definition: Definition
  inForce?: Definition | null
  custodians: readonly Schemas['CustodianView'][]
  verb?: string
  editable?: boolean
}>()
const emit = defineEmits<{ change: [Definition] }>()
const open = ref<string | null>(null)
const containers = useQuery({ queryKey: ['containers'], queryFn: () => take(api.GET('/api/containers')) })
const channels = useQuery({
  queryKey: ['channels', 'names'],
  queryFn: () => take(api.GET('/api/channels/names')),
  enabled: computed(() => editable && verb === 'Keep' && may('openMatters')),
})
const kept = useQuery({
  queryKey: computed(() => ['channels', 'kept', definition]),
  queryFn: () => take(api.POST('/api/channels/kept', { body: definition })),
  enabled: computed(() => !!definition.channels?.length && may('openMatters')),
})
const containerName = (id: number) => containers.data.value?.find((c) => c.id === id)?.name ?? '…'
const custodianName = (id: number) => custodians.find((c) => c.id === id)?.name ?? '…'
const reach = (d: Definition) => reachWords(d, containerName, custodianName)
const words = (d: Definition) => d.query || 'anything'
const dates = (d: Definition) => rangeWords(d.from, d.to)
const was = (say: (d: Definition) => string) => (inForce && say(inForce) !== say(definition) ? say(inForce) : null)
const change = (part: Partial<Definition>) => emit('change', { ...definition, ...part })
const typed = computed({ get: () => definition.query ?? '', set: (q: string) => change({ query: q.trim() || null }) })
const listed = computed(() => definition.items?.join(', ') ?? '')
/** What stands in a list of ids and is none. */
const notIds = ref('')
function list(text: string) {
  const parts = text.split(/[\s,;]+/).filter(Boolean)
  notIds.value = parts.find((p) => !/^[1-9]\d{0,15}$/.test(p)) ?? ''
  if (!notIds.value) change({ items: parts.length ? [...new Set(parts.map(Number))] : null })
}
</script>

<template>
  <p class="sentence" :class="{ editable }">
    {{ verb }} everything of
    <SentencePart
      v-model:open="open"
      name="reach"
      label="Whose and where"
      :words="reach(definition)"
      :was="was(reach)"
      :editable="editable"
      :width="430"
    >
      <div class="editor">
        <label class="label" for="hold-custodians">Custodians: their places, and what they wrote</label>
        <el-select
          id="hold-custodians"
          aria-label="Custodians"
          :model-value="definition.custodians"
          multiple
          filterable
          @update:model-value="change({ custodians: $event })"
          ><el-option v-for="c in custodians" :key="c.id" :value="c.id" :label="c.name"
        /></el-select>
        <label class="label" for="hold-containers">and all of these containers</label>
        <el-select
          id="hold-containers"
          aria-label="Containers"
          :model-value="definition.containers"
          multiple
          filterable
          collapse-tags
          :max-collapse-tags="3"
          @update:model-value="change({ containers: $event })"
          ><el-option
            v-for="c in containers.data.value ?? []"
            :key="c.id"
            :value="c.id"
            :label="`${c.name} · ${c.source}`"
        /></el-select>
        <p class="small quiet">With neither, it reaches all content of the matter’s unit.</p>
        <template v-if="verb === 'Find'">
          <label class="label" for="hold-items">but only these items, by their ids</label>
          <el-input
            id="hold-items"
            :model-value="listed"
            type="textarea"
            :rows="2"
            placeholder="any; or 4711, 4712 …"
            @change="list"
          />
          <p v-if="notIds" class="problem small" role="alert">“{{ notIds }}” is not the id of an item.</p>
        </template>
        <template v-if="verb === 'Keep' && channels.data.value?.length">
          <label class="label" for="hold-channels">and the events of these channels, of the days below</label>
          <el-select
            id="hold-channels"
            aria-label="Channels"
            :model-value="definition.channels ?? []"
            multiple
            placeholder="none"
            @update:model-value="change({ channels: $event.length ? $event : null })"
            ><el-option v-for="c in channels.data.value" :key="c.name" :value="c.name" :label="c.title"
          /></el-select>
        </template>
        <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
      </div>
    </SentencePart>
    that matches
    <SentencePart
      v-model:open="open"
      name="query"
      label="Which words"
      :words="words(definition)"
      :was="was(words)"
      :editable="editable"
      :width="520"
    >
      <div class="editor">
        <label class="label">A query; empty takes everything</label><QueryField v-model="typed" />
        <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
      </div>
    </SentencePart>
    dated
    <SentencePart
      v-model:open="open"
      name="dates"
      label="From when to when"
      :words="dates(definition)"
      :was="was(dates)"
      :editable="editable"
      :width="300"
    >
      <div class="editor">
        <label class="label" for="hold-from">From</label
        ><input
          id="hold-from"
          type="date"
          class="box"
          :value="definition.from ?? ''"
          @change="change({ from: ($event.target as HTMLInputElement).value || null })"
        />
        <label class="label" for="hold-to">To</label
        ><input
          id="hold-to"
          type="date"
          class="box"
          :value="definition.to ?? ''"
          @change="change({ to: ($event.target as HTMLInputElement).value || null })"
        />
        <p class="small quiet">An item is dated by the span from its creation to its last change.</p>
        <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
      </div> </SentencePart
    >.
    <span v-if="definition.channels?.length && kept.data.value" class="small quiet"
      >{{ plural(kept.data.value.events, 'event') }} on {{ plural(kept.data.value.days, 'sealed day') }} are kept
      too.</span
    >
  </p>
</template>
