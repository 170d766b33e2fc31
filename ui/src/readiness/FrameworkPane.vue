<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { may } from '@/shared/session'
import { percent, stateWords } from './words'

/** One framework: its requirements, the controls that answer each, and how its figure is made. */
const { code } = defineProps<{ code: string }>()
const emit = defineEmits<{ close: [] }>()
const path = { params: { path: { code } } }
const { data, error } = useQuery({
  queryKey: ['readiness', 'framework', code],
  queryFn: () => take(api.GET('/api/frameworks/{code}', path)),
})
const { act, busy, problem } = useAct(['readiness'])
const remove = async () => {
  if (await act(() => take(api.DELETE('/api/frameworks/{code}', path)))) emit('close')
}
const lacking = ref(false)
const rows = computed(() =>
  (data.value?.requirements ?? []).filter((r) => !lacking.value || Number(r.readiness ?? 1) < 1),
)
</script>

<template>
  <section v-if="data" class="panel block" :aria-label="data.framework.title">
    <header>
      <h2>{{ data.framework.title }}</h2>
      <el-checkbox v-model="lacking" size="small">only what is lacking</el-checkbox>
      <a :href="`/api/frameworks/${code}/oscal`" download>OSCAL</a>
      <button v-if="may('manageReadiness')" class="link" :disabled="busy" @click="remove">Remove it</button>
      <button class="link" @click="emit('close')">Fold</button>
    </header>
    <p v-if="problem ?? error" class="problem" role="alert">{{ (problem ?? error)!.message }}</p>
    <details>
      <summary>How {{ percent(data.framework.readiness) }} is made</summary>
      <p class="small">
        A control = weight of its parts that count ÷ weight of all. A requirement = weighted mean of the applicable
        controls that serve it; with none it is 0. The framework in a unit = weighted mean of its requirements over the
        controls that apply there. The framework = mean of its units, weighted by people:
      </p>
      <ul class="small">
        <li v-for="f in data.formula" :key="f">{{ f }}</li>
      </ul>
    </details>
    <table class="sheet">
      <thead>
        <tr>
          <th>Requirement</th>
          <th class="num">Readiness</th>
          <th>Controls</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.code">
          <td>
            <strong>{{ r.code }}</strong> {{ r.title }} <span class="small quiet">{{ r.group }}</span>
          </td>
          <td class="num" :class="{ lacking: Number(r.readiness ?? 1) < 0.5 }">
            {{ r.state === 'answered' ? percent(r.readiness) : stateWords[r.state] }}
          </td>
          <td class="small">
            <span v-for="(c, i) in r.controls" :key="c.code"
              >{{ i ? ', ' : ''
              }}<RouterLink :to="`/readiness/controls?code=${c.code}`" :title="c.title">{{ c.code }}</RouterLink>
              {{ c.state === 'notApplicable' ? 'n/a' : percent(c.readiness) }}</span
            >
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
h2 {
  font-size: 16px;
  margin-right: auto;
}
summary {
  cursor: pointer;
}
</style>
