<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { may } from '@/shared/session'
import { severityMarks, severityWords } from './watchWords'

/** How risky an alert is, and from which circumstances that is computed. */
const {
  alert,
  factors,
  busy = false,
} = defineProps<{ alert: Schemas['AlertView']; factors: readonly Schemas['RiskFactor'][]; busy?: boolean }>()
const emit = defineEmits<{ learn: [useful: boolean] }>()
const part = (f: Schemas['RiskFactor']) => f.value * f.weight
const heaviest = computed(() => Math.max(0.1, ...factors.map((f) => Math.abs(part(f)))))
</script>

<template>
  <section aria-label="Risk">
    <h2>
      Risk
      <span :class="alert.severity"
        >{{ alert.risk }} of 100 · {{ severityMarks[alert.severity] }}
        {{ severityWords[alert.severity] }} severity</span
      >
    </h2>
    <table class="factors">
      <tbody>
        <tr v-for="f in factors" :key="f.name">
          <th scope="row">{{ f.words }}</th>
          <td class="bar" aria-hidden="true">
            <span :class="{ less: part(f) < 0 }" :style="{ width: `${(Math.abs(part(f)) / heaviest) * 100}%` }" />
          </td>
          <td class="num" :title="`${f.value.toFixed(2)} × ${f.weight.toFixed(2)}`">
            {{ part(f) < 0 ? '−' : '+' }}{{ Math.abs(part(f)).toFixed(2) }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="factors.length === 0" class="quiet">No circumstance adds to it.</p>
    <p v-if="may('manageWatches')" class="small feedback">
      <template v-if="alert.useful === null || alert.useful === undefined"
        >Was this alert worth your time?
        <button class="chip" :disabled="busy" @click="emit('learn', true)">useful</button>
        <button class="chip" :disabled="busy" @click="emit('learn', false)">noise</button></template
      >
      <template v-else>Found {{ alert.useful ? 'useful' : 'noise' }}: the weights of these factors moved.</template>
    </p>
  </section>
</template>

<style scoped>
h2 {
  font-size: 15px;
  margin: 0 0 4px;
}
p {
  margin: 0;
}
.high {
  color: var(--copper);
}
.factors {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
.factors th {
  font-weight: 400;
  text-align: left;
  width: 56%;
  padding: 2px 8px 2px 0;
}
.factors span {
  display: block;
  height: 9px;
  background: var(--copper);
}
.factors .less {
  background: var(--sea);
}
.factors .num {
  width: 60px;
}
.feedback {
  margin-top: 6px;
}
</style>
