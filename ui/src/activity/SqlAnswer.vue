<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

/** The answer as a table, and, where a text stands beside a number, as bars. */
const { answer } = defineProps<{ answer: Schemas['StatementResult'] }>()
const asBars = ref(false)
const most = 500
const shown = computed(() => answer.rows.slice(0, most))
const kinds = computed(() => answer.columns.map((_, i) => typeof answer.rows.find((r) => r[i] !== null)?.[i]))
const label = computed(() => kinds.value.findIndex((k) => k === 'string'))
const number = computed(() => kinds.value.findIndex((k) => k === 'number'))
const drawable = computed(() => label.value >= 0 && number.value >= 0)
const bars = computed(() =>
  shown.value.slice(0, 40).map((r) => ({ label: String(r[label.value]), value: Number(r[number.value]) })),
)
const top = computed(() => Math.max(1, ...bars.value.map((b) => b.value)))
const cell = (value: unknown) =>
  value === null || value === undefined
    ? ''
    : typeof value === 'number' && Number.isInteger(value)
      ? count(value)
      : String(value)
</script>

<template>
  <div class="answer">
    <p v-if="drawable" class="small">
      <button class="link" @click="asBars = !asBars">{{ asBars ? 'As a table' : 'As a chart' }}</button>
    </p>
    <table v-if="asBars && drawable" class="bars">
      <tbody>
        <tr v-for="b in bars" :key="b.label">
          <th scope="row">{{ b.label }}</th>
          <td aria-hidden="true"><span :style="{ width: `${(Math.max(0, b.value) / top) * 100}%` }" /></td>
          <td class="num">{{ count(b.value) }}</td>
        </tr>
      </tbody>
    </table>
    <table v-else class="sheet">
      <thead>
        <tr>
          <th
            v-for="(c, i) in answer.columns"
            :key="c.name + i"
            :class="{ num: kinds[i] === 'number' }"
            :title="c.type"
          >
            {{ c.name }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in shown" :key="i">
          <td v-for="(c, k) in answer.columns" :key="c.name + k" :class="{ num: kinds[k] === 'number' }">
            {{ cell(r[k]) }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="answer.rows.length > most" class="small quiet">
      The first {{ count(most) }} rows are shown here; CSV holds them all.
    </p>
  </div>
</template>

<style scoped>
.answer {
  overflow: auto;
  min-height: 120px;
}
.bars {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
.bars th {
  text-align: left;
  font-weight: 400;
  width: 260px;
  padding: 2px 12px 2px 0;
}
.bars span {
  display: block;
  height: 10px;
  background: var(--sea);
}
.bars .num {
  width: 90px;
}
</style>
