<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { count } from '@/shared/format'
import { seriesNames } from '@/shared/series'
import { may } from '@/shared/session'
import { searchableWords, sizeWords, stateWords, type ItemState } from '@/shared/words'
import { useItemQuery } from './query'

/** What narrows the list of items beside its query; the values of each with the number of items that have them. */
const { open } = defineProps<{
  /** An item is open beside the list, which is narrow then. */
  open: boolean
}>()
/** The filter whose values stand open. */
const showing = defineModel<string | null>('showing', { required: true })
const { forUrl, list, put, clear } = useItemQuery()
const facets = useQuery({
  queryKey: computed(() => ['facets', forUrl.value]),
  queryFn: () => take(api.GET('/api/items/facets', { params: { query: forUrl.value } })),
  placeholderData: keepPreviousData,
})

const allFacets: Record<string, string> = {
  state: 'State',
  series: 'Series',
  container: 'Container',
  unit: 'Unit',
  type: 'Type',
  year: 'Year',
  source: 'Source',
  owner: 'Owner',
  kind: 'Sensitive',
  searchable: 'Searchable',
  size: 'Size',
}
const rare = ['source', 'owner', 'kind', 'searchable', 'size']
const more = ref(false)
/** The rarer ones stand there when they are asked for, or in use. */
const facetNames = computed(() =>
  Object.fromEntries(
    Object.entries(allFacets).filter(
      ([key]) =>
        (key !== 'kind' || may('readSensitive')) && (more.value || !rare.includes(key) || list(key).length > 0),
    ),
  ),
)
const chosen = (name: string) => [...list(name), ...(name === 'series' && list('unfiled').length ? [''] : [])]
function pick(name: string, value: string) {
  if (name === 'series' && value === '') return put({ unfiled: list('unfiled').length ? null : 'true' })
  const now = list(name)
  return put({ [name]: now.includes(value) ? now.filter((v) => v !== value) : [...now, value] })
}
const label = (name: string, value: string, told: string) =>
  name === 'state'
    ? stateWords[value as ItemState]
    : name === 'size'
      ? sizeWords[+value]!
      : name === 'searchable'
        ? searchableWords[value]!
        : told || '(none)'
function summary(name: string) {
  const now = chosen(name)
  if (now.length === 0) return allFacets[name]
  const values = facets.data.value?.find((f) => f.name === name)?.values
  const first = values?.find((v) => v.value === now[0])
  return `${allFacets[name]}: ${label(name, now[0]!, first?.label ?? now[0]!)}${now.length > 1 ? ` +${now.length - 1}` : ''}`
}
const anyChosen = computed(() => Object.keys(forUrl.value).length > 0)
const series = useQuery({
  ...seriesNames,
  enabled: computed(() => list('suggested').length > 0),
})
const suggestedFor = computed(() =>
  list('suggested')
    .map((id) => series.data.value?.find((s) => s.id === +id)?.code ?? '…')
    .join(', '),
)
</script>

<template>
  <div>
    <div class="filters">
      <button
        v-for="(name, key) in facetNames"
        :key="key"
        class="chip"
        :aria-pressed="chosen(key).length > 0"
        :aria-expanded="showing === key"
        :title="`Filter by ${name}`"
        @click="showing = showing === key ? null : key"
      >
        {{ summary(key) }}
      </button>
      <button v-if="!more && !open" class="link small" @click="more = true">More</button>
      <button v-if="list('subject').length" class="chip" aria-pressed="true" @click="put({ subject: null })">
        About {{ list('subject').join(', ') }} ✕
      </button>
      <button v-if="list('thread').length" class="chip" aria-pressed="true" @click="put({ thread: null })">
        One conversation ✕
      </button>
      <button
        v-if="list('filingRule').length"
        class="chip"
        aria-pressed="true"
        @click="put({ filingRule: null, suggested: null })"
      >
        Filed by a rule ✕
      </button>
      <button
        v-if="list('suggested').length"
        class="chip"
        aria-pressed="true"
        title="Under no series; learnt from what people filed by hand"
        @click="put({ suggested: null })"
      >
        Suggested for {{ suggestedFor }} ✕
      </button>
      <button
        v-if="list('hash').length"
        class="chip"
        aria-pressed="true"
        title="Only copies of one content"
        @click="put({ hash: null })"
      >
        Same content ✕
      </button>
      <button
        v-if="more || list('missing').length"
        class="chip"
        :aria-pressed="list('missing').length > 0"
        @click="put({ missing: list('missing').length ? null : 'true' })"
      >
        Gone from source
      </button>
      <button v-if="anyChosen" class="link small" @click="clear">Clear</button>
    </div>
    <div v-if="showing" class="facet" role="group" :aria-label="allFacets[showing]">
      <label v-for="v in facets.data.value?.find((f) => f.name === showing)?.values ?? []" :key="v.value"
        ><input
          type="checkbox"
          :checked="chosen(showing!).includes(v.value)"
          @change="pick(showing!, v.value)"
        /><span>{{ label(showing!, v.value, v.label) }}</span
        ><span class="num quiet">{{ count(v.count) }}</span></label
      >
    </div>
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  padding: 2px 16px 10px;
  border-bottom: 1px solid var(--line);
}
.below .filters {
  padding-top: 10px;
}
.facet {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 2px 24px;
  padding: 10px 16px;
  max-height: 190px;
  overflow: auto;
  background: var(--sheet-2);
  border-bottom: 1px solid var(--line);
}
.facet label {
  display: grid;
  grid-template-columns: 18px 1fr auto;
  gap: 6px;
  font-size: 13px;
  cursor: pointer;
}
.facet label span:nth-child(2) {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
input[type='checkbox'] {
  accent-color: var(--sea);
}
</style>
