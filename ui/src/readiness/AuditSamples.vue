<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { may } from '@/shared/session'
import AuditPopulations from './AuditPopulations.vue'
import SampleResults from './SampleResults.vue'
import { percent } from './words'

/** Samples: the population is frozen, the seed shown, the size computed, and the result says how high the rate may be. */
const { audit, mayDraw } = defineProps<{ audit: Schemas['AuditView']; mayDraw: boolean }>()
const { act, busy, problem } = useAct(['readiness'])
const measures = useQuery({
  queryKey: ['gauges', 'measures'],
  queryFn: () => take(api.GET('/api/measures')),
  enabled: mayDraw && may('manageReadiness'),
  retry: false,
})
/** What can be sampled: populations of the room by their number, and measures of the organisation by their name. */
const populations = computed(() => [
  ...audit.populations.map((p) => ({ value: `#${p.id}`, label: `${p.title} (${p.size})` })),
  ...(measures.data.value ?? []).map((m) => ({ value: m.name, label: m.title })),
])
const form = reactive({
  title: '',
  measure: '',
  list: '',
  method: 'random',
  seed: Math.floor(Math.random() * 1_000_000),
  confidence: 0.95,
  tolerable: 0.05,
  expected: 0,
  finite: true,
})
const draw = () =>
  act(() =>
    take(
      api.POST('/api/audits/{id}/samples', {
        params: { path: { id: audit.id } },
        body: {
          title: form.title,
          opened: form.measure.startsWith('#') ? Number(form.measure.slice(1)) : null,
          measure: form.measure && !form.measure.startsWith('#') ? form.measure : null,
          population: form.measure ? null : form.list.split('\n'),
          method: form.method,
          seed: form.seed,
          confidence: form.confidence,
          tolerable: form.tolerable,
          expected: form.expected,
          finite: form.finite,
        },
      }),
    ),
  )
</script>

<template>
  <AuditPopulations :audit="audit" :measures="measures.data.value ?? []" />
  <section v-for="s in audit.samples" :key="s.id" class="panel block" :aria-label="s.title">
    <p>
      <strong>{{ s.title }}</strong>: {{ s.picked.length }} of {{ s.population }}, {{ s.method }}, seed {{ s.seed }},
      drawn by
      {{ s.drawnBy }}
    </p>
    <p class="small quiet">
      Confidence {{ percent(s.confidence) }}, tolerable {{ percent(s.tolerable) }}, expected {{ percent(s.expected) }}.
      Population SHA-256 {{ s.hash.slice(0, 16) }}…
    </p>
    <p v-if="s.strata.length" class="small">
      <span v-for="(t, i) in s.strata" :key="t.name"
        >{{ i ? ' · ' : '' }}{{ t.name || 'without a unit' }} {{ t.drawn }} of {{ t.members }}</span
      >
    </p>
    <p v-if="s.found !== null && s.found !== undefined">
      {{ s.found }} deviated: with {{ percent(s.confidence) }} confidence at most
      <strong :class="{ lacking: (s.upperLimit ?? 0) > s.tolerable }">{{ percent(s.upperLimit) }}</strong> do in the
      population;
      {{ (s.upperLimit ?? 0) > s.tolerable ? 'that is more than is tolerable' : 'that is within what is tolerable' }}.
    </p>
    <SampleResults :audit="audit.id" :sample="s" />
  </section>
  <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  <form v-if="mayDraw" class="panel block grid" novalidate @submit.prevent="draw">
    <label class="label" for="s-title">What is sampled</label
    ><el-input id="s-title" v-model="form.title" size="small" />
    <span class="label">Population</span>
    <el-select
      v-model="form.measure"
      size="small"
      clearable
      filterable
      placeholder="a list, one a line"
      aria-label="Population"
      ><el-option v-for="p in populations" :key="p.value" :value="p.value" :label="p.label"
    /></el-select>
    <template v-if="!form.measure"
      ><label class="label" for="s-list">List</label
      ><span
        ><el-input id="s-list" v-model="form.list" type="textarea" :rows="3" /><span
          v-if="form.method === 'stratified'"
          class="small quiet"
          >A line is a stratum, a | and the name.</span
        ></span
      ></template
    >
    <span class="label">Confidence, tolerable, expected</span>
    <span class="row"
      ><el-input-number
        v-model="form.confidence"
        size="small"
        :min="0.5"
        :max="0.999"
        :step="0.01"
        aria-label="Confidence" />
      <el-input-number
        v-model="form.tolerable"
        size="small"
        :min="0.001"
        :max="0.9"
        :step="0.01"
        aria-label="Tolerable rate" />
      <el-input-number v-model="form.expected" size="small" :min="0" :max="0.9" :step="0.01" aria-label="Expected rate"
    /></span>
    <span class="label">Method and seed</span>
    <span class="row"
      ><el-select v-model="form.method" size="small" aria-label="Method"
        ><el-option value="random" label="random" /><el-option
          value="systematic"
          label="systematic, random start" /><el-option value="stratified" label="stratified"
      /></el-select>
      <el-input-number v-model="form.seed" size="small" :controls="false" aria-label="Seed" />
      <el-checkbox v-model="form.finite" size="small">small population (hypergeometric)</el-checkbox></span
    >
    <span /><el-button type="primary" size="small" native-type="submit" :loading="busy">Draw the sample</el-button>
  </form>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
.grid {
  display: grid;
  grid-template-columns: 200px minmax(0, 520px);
  gap: 8px 14px;
  align-items: center;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
