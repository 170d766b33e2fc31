<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { percent } from './words'

/** Samples: the population is frozen, the seed shown, the size computed, and the result says how high the rate may be. */
const { audit, mayDraw } = defineProps<{ audit: Schemas['AuditView']; mayDraw: boolean }>()
const { act, busy, problem } = useAct(['readiness'])
const measures = useQuery({
  queryKey: ['gauges', 'measures'],
  queryFn: () => take(api.GET('/api/measures')),
  enabled: mayDraw,
  retry: false,
})
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
          measure: form.measure || null,
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
const found = ref<Record<number, number>>({})
const result = (sample: number) =>
  act(() =>
    take(
      api.POST('/api/audits/{id}/samples/{sample}/result', {
        params: { path: { id: audit.id, sample } },
        body: { found: found.value[sample] ?? 0 },
      }),
    ),
  )
</script>

<template>
  <section v-for="s in audit.samples" :key="s.id" class="panel block" :aria-label="s.title">
    <p>
      <strong>{{ s.title }}</strong>: {{ s.picked.length }} of {{ s.population }}, {{ s.method }}, seed {{ s.seed }}
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
    <details>
      <summary class="small">What was drawn</summary>
      <ol class="small picks">
        <li v-for="(p, i) in s.picked" :key="i">{{ p }}</li>
      </ol>
    </details>
    <p v-if="s.found !== null && s.found !== undefined">
      {{ s.found }} deviated: with {{ percent(s.confidence) }} confidence at most
      <strong :class="{ lacking: (s.upperLimit ?? 0) > s.tolerable }">{{ percent(s.upperLimit) }}</strong> do in the
      population;
      {{ (s.upperLimit ?? 0) > s.tolerable ? 'that is more than is tolerable' : 'that is within what is tolerable' }}.
    </p>
    <p v-else-if="mayDraw" class="acts-row">
      Deviations found
      <el-input-number
        v-model="found[s.id]"
        size="small"
        :min="0"
        :max="s.picked.length"
        aria-label="Deviations found"
      />
      <el-button size="small" type="primary" :loading="busy" @click="result(s.id)">Set the result</el-button>
    </p>
  </section>
  <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  <form v-if="mayDraw" class="panel block grid" @submit.prevent="draw">
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
      ><el-option v-for="m in measures.data.value ?? []" :key="m.name" :value="m.name" :label="m.title"
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
    <span /><el-button type="primary" size="small" native-type="submit" :loading="busy">Freeze and draw</el-button>
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
.picks {
  columns: 2;
}
</style>
