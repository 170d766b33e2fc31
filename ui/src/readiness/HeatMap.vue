<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'

/** Risks by likelihood and impact after treatment; a cell opens into its risks. */
const { risks, cell } = defineProps<{ risks: readonly Schemas['RegisterView'][]; cell: [number, number] | null }>()
const emit = defineEmits<{ pick: [[number, number] | null] }>()
const inCell = (l: number, i: number) =>
  risks.filter((r) => r.settings.likelihoodAfter === l && r.settings.impactAfter === i).length
const is = (l: number, i: number) => !!cell && cell[0] === l && cell[1] === i
/** How grave a cell is: 0 to 4. */
const grave = (l: number, i: number) => Math.min(4, Math.floor((l * i - 1) / 5))
</script>

<template>
  <table class="map" aria-label="Risks by likelihood and impact after treatment">
    <tbody>
      <tr v-for="l in [5, 4, 3, 2, 1]" :key="l">
        <th scope="row">{{ l === 5 ? 'likely 5' : l === 1 ? 'rare 1' : l }}</th>
        <td v-for="i in [1, 2, 3, 4, 5]" :key="i" :class="`grave-${grave(l, i)}`">
          <button
            :disabled="!inCell(l, i)"
            :aria-pressed="is(l, i)"
            :aria-label="`Likelihood ${l}, impact ${i}: ${inCell(l, i)} risks`"
            @click="emit('pick', is(l, i) ? null : [l, i])"
          >
            {{ inCell(l, i) || '' }}
          </button>
        </td>
      </tr>
      <tr>
        <th />
        <th v-for="i in [1, 2, 3, 4, 5]" :key="i" scope="col">{{ i === 1 ? 'light 1' : i === 5 ? 'grave 5' : i }}</th>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.map {
  justify-self: start;
  border-spacing: 3px;
  border-collapse: separate;
}
th {
  font-weight: 400;
  font-size: 12px;
  color: var(--ink-2);
  padding: 0 6px;
  text-align: right;
}
th[scope='col'] {
  text-align: center;
}
td {
  padding: 0;
  border: 1px solid var(--line);
}
button {
  width: 84px;
  height: 34px;
  border: 0;
  background: none;
  color: var(--ink);
  font-weight: 600;
  cursor: pointer;
}
button:disabled {
  cursor: default;
}
button[aria-pressed='true'] {
  outline: 2px solid var(--focus);
}
.grave-0 {
  background: var(--sea-wash);
}
.grave-1 {
  background: var(--sheet-2);
}
.grave-2 {
  background: var(--gold-wash);
}
.grave-3,
.grave-4 {
  background: var(--copper-wash);
}
.grave-4 {
  border-color: var(--copper);
}
</style>
