<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { may } from '@/shared/session'
import { severityWords } from './watchWords'

/** The weights that feedback moves, and how weighty each action is. */
const weights = useQuery({ queryKey: ['alert-weights'], queryFn: () => take(api.GET('/api/alert-weights')) })
const severities = useQuery({
  queryKey: ['action-severities'],
  queryFn: () => take(api.GET('/api/action-severities')),
})
const which = ref<'weights' | 'severities'>('weights')
const { act, busy, problem } = useAct(['watches'])
const reset = () => act(() => take(api.DELETE('/api/alert-weights')))
const set = (action: string, severity: Schemas['AlertSeverity']) =>
  act(() => take(api.PUT('/api/action-severities', { body: { action, severity } })))
</script>

<template>
  <section class="panel block" aria-label="How alerts are ranked">
    <el-radio-group v-model="which" size="small" aria-label="What to show"
      ><el-radio-button value="weights">Weights of risk</el-radio-button
      ><el-radio-button value="severities">Severity of actions</el-radio-button></el-radio-group
    >
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template v-if="which === 'weights'">
      <p class="small">
        Risk = 100 ÷ (1 + e<sup>−z</sup>), where z is −2 plus each factor’s value times its weight. <em>Useful</em> and
        <em>noise</em> move the weights of an alert’s factors by 0.25 × (1 or 0 − risk ÷ 100) × value.
      </p>
      <table class="sheet">
        <thead>
          <tr>
            <th>Factor</th>
            <th class="num">Weight</th>
            <th class="num">At first</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="w in weights.data.value ?? []" :key="w.factor">
            <td>{{ w.factor }}</td>
            <td class="num" :class="{ moved: w.weight !== w.beginning }">{{ w.weight.toFixed(2) }}</td>
            <td class="num">{{ w.beginning.toFixed(2) }}</td>
          </tr>
        </tbody>
      </table>
      <el-button v-if="may('manageWatches')" size="small" :loading="busy" @click="reset">Reset the weights</el-button>
    </template>
    <table v-else class="sheet">
      <thead>
        <tr>
          <th>Action</th>
          <th>Severity</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in severities.data.value ?? []" :key="s.action">
          <td>
            {{ s.action }} <span class="small quiet">{{ s.words }}</span>
          </td>
          <td>
            <el-select
              size="small"
              :model-value="s.severity"
              :disabled="!may('manageWatches')"
              :aria-label="`Severity of ${s.action}`"
              @change="(v: Schemas['AlertSeverity']) => set(s.action, v)"
              ><el-option v-for="(w, v) in severityWords" :key="v" :value="v" :label="w"
            /></el-select>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
section {
  margin: 0 16px 8px;
  max-height: 360px;
  overflow: auto;
}
.moved {
  color: var(--copper);
  font-weight: 600;
}
.el-select {
  width: 110px;
}
</style>
