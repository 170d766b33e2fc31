<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'

/** What a removal of one line takes: every way to it, which of them are chosen, whom else that touches, and the last use. */
type Change = Schemas['DirectoryChange']
const { token, line } = defineProps<{ token: string; line: Schemas['ReviewLineView'] }>()
/** The chosen changes; null for those that concern the person alone. */
const chosen = defineModel<Change[] | null>({ required: true })
const { data } = useQuery({
  queryKey: computed(() => ['review-removal', token, line.id]),
  queryFn: () =>
    take(api.GET('/api/review/{token}/lines/{line}/removal', { params: { path: { token, line: line.id } } })),
})
watch(
  () => line.id,
  () => (chosen.value = null),
)
const key = (c: Change) => `${c.verb} ${c.who} ${c.what} ${c.role}`
const taken = computed(() => chosen.value ?? data.value?.steps.filter((s) => s.usual).map((s) => s.change) ?? [])
const isTaken = (c: Change) => taken.value.some((t) => key(t) === key(c))
const ways = computed(() => data.value?.steps.filter((s) => isTaken(s.change)).reduce((sum, s) => sum + s.ways, 0) ?? 0)
const toggle = (c: Change) =>
  (chosen.value = isTaken(c) ? taken.value.filter((t) => key(t) !== key(c)) : [...taken.value, c])
const costs = computed(() => data.value?.costs ?? [])
</script>

<template>
  <div v-if="data" class="ways small">
    <p v-if="data.ways === 0">No access is left.</p>
    <p v-else>
      {{ plural(data.ways, 'way') }};
      <strong :class="{ lacking: ways < data.ways }">{{
        ways === 0 ? 'removal ends none' : `removal ends ${ways === data.ways ? 'all' : ways}`
      }}</strong>
    </p>
    <ul>
      <li v-for="s in data.steps" :key="key(s.change)">
        <label class="check"
          ><input type="checkbox" :checked="isTaken(s.change)" @change="toggle(s.change)" />
          <span
            >{{ s.says }}
            <span class="quiet">{{ s.way.join(' → ') }}{{ s.ways > 1 ? `, ${s.ways} ways` : '' }}</span></span
          ></label
        >
        <details v-if="s.others" class="others">
          <summary class="lacking">▲ {{ plural(s.others, 'other person loses it', 'other people lose it') }}</summary>
          {{ s.otherNames.join(', ')
          }}{{ s.others > s.otherNames.length ? ` and ${s.others - s.otherNames.length} more` : '' }}
        </details>
      </li>
    </ul>
    <details v-if="costs.length">
      <summary>Also lost: {{ plural(costs.length, 'other place') }}</summary>
      {{ costs.join(', ') }}
    </details>
    <p class="quiet">
      {{
        data.lastUse
          ? `Last used on ${day(data.lastUse)}.`
          : data.useIsSeen
            ? 'No use recorded.'
            : 'Use is unknown: no events are collected here.'
      }}
    </p>
  </div>
</template>

<style scoped>
.ways {
  display: grid;
  gap: 4px;
}
p,
ul {
  margin: 0;
}
ul {
  padding: 0;
  list-style: none;
  display: grid;
  gap: 2px;
}
.others {
  margin-left: 25px;
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
