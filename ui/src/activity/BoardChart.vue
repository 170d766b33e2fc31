<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/shared/api/client'
import { count, day } from '@/shared/format'
import { searchFor } from './span'
import { actionWords } from './words'

/**
 * One chart of a board; every bar opens into its events, and its table says the same. Bars of days are too narrow to be
 * links: those who do not point at them have the table.
 */
const { chart, days } = defineProps<{ chart: Schemas['BoardChart']; days: string }>()
const asTable = ref(false)
const most = computed(() => Math.max(1, ...chart.rows.map((r) => r.value)))
const router = useRouter()
const open = (row: Schemas['BoardRow']) => router.push(searchFor(row.query, 'all'))
const label = (row: Schemas['BoardRow']) => (chart.days ? day(row.label) : actionWords(row.label))
</script>

<template>
  <section class="panel chart" :aria-label="chart.title">
    <header>
      <h2>{{ chart.title }}</h2>
      <button v-if="chart.days && chart.rows.length" class="link small" @click="asTable = !asTable">
        {{ asTable ? 'as columns' : 'as a table' }}
      </button>
    </header>
    <p class="small quiet">{{ chart.says }}</p>
    <p v-if="chart.rows.length === 0" class="none quiet">Nothing in this time.</p>
    <div v-else-if="chart.days && !asTable" class="columns" aria-hidden="true">
      <div v-for="r in chart.rows" :key="r.label" :title="`${label(r)}: ${count(r.value)}`" @click="open(r)">
        <span :style="{ height: `${(r.value / most) * 100}%` }" />
      </div>
    </div>
    <table v-else>
      <tbody>
        <tr v-for="r in chart.rows" :key="r.label">
          <th scope="row">
            <RouterLink :to="searchFor(r.query, chart.days ? 'all' : days)" :title="r.label">{{ label(r) }}</RouterLink>
          </th>
          <td class="bar" aria-hidden="true"><span :style="{ width: `${(r.value / most) * 100}%` }" /></td>
          <td class="num">{{ count(r.value) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.chart {
  padding: 12px 16px 14px;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
header {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
}
h2 {
  font-size: 16px;
}
p {
  margin: 2px 0 8px;
}
.columns {
  display: flex;
  flex: 1;
  min-height: 150px;
  align-items: stretch;
  border-bottom: 1px solid var(--line-2);
}
.columns div {
  flex: 1;
  display: flex;
  align-items: flex-end;
  padding: 0 1px;
  cursor: pointer;
}
.columns div:hover {
  background: var(--sea-wash);
}
.columns span {
  flex: 1;
  background: var(--sea);
  min-height: 1px;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
  table-layout: fixed;
}
th {
  width: 52%;
  text-align: left;
  font-weight: 400;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  padding: 3px 10px 3px 0;
  line-height: 20px;
}
.bar span {
  display: block;
  height: 9px;
  background: var(--sea);
  border-radius: 1px;
}
.num {
  width: 70px;
}
</style>
