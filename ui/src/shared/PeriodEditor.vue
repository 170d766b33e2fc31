<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { simplePeriod, type SimplePeriod } from './words'

/** A length of time: a number and a unit, or any ISO 8601 period as it is. */
const {
  disabled = false,
  name = 'period',
  label = 'How long',
  least = 1,
} = defineProps<{
  disabled?: boolean
  name?: string
  label?: string
  /** 0 where a period of zero has a meaning: until the event, until the end of the year. */
  least?: 0 | 1
}>()
const period = defineModel<string>({ required: true })
const units = [
  { value: 'Y', label: 'years' },
  { value: 'M', label: 'months' },
  { value: 'W', label: 'weeks' },
  { value: 'D', label: 'days' },
] as const
/** Number and unit can change in one go, before the parent has taken in the first. */
const now = ref(period.value)
watch(period, (p) => (now.value = p))
const simple = computed(() => simplePeriod(now.value))
const typed = ref('')
const set = (next: SimplePeriod) => (period.value = now.value = `P${next.count}${next.unit}`)
function use() {
  if (typed.value.trim()) period.value = typed.value.trim()
}
</script>

<template>
  <label class="label" :for="`${name}-count`">{{ label }}</label>
  <div class="row">
    <input
      :id="`${name}-count`"
      class="box"
      type="number"
      :min="least"
      max="999"
      :disabled="disabled"
      :value="simple?.count ?? 1"
      @change="set({ count: Math.max(least, +($event.target as HTMLInputElement).value), unit: simple?.unit ?? 'Y' })"
    />
    <select
      class="box"
      aria-label="Unit"
      :disabled="disabled"
      :value="simple?.unit ?? 'Y'"
      @change="
        set({ count: simple?.count ?? 1, unit: ($event.target as HTMLSelectElement).value as SimplePeriod['unit'] })
      "
    >
      <option v-for="u in units" :key="u.value" :value="u.value">{{ u.label }}</option>
    </select>
  </div>
  <label class="label" :for="`${name}-iso`">or as ISO 8601, such as P1Y6M</label>
  <div class="row">
    <input
      :id="`${name}-iso`"
      v-model="typed"
      class="box"
      :placeholder="period"
      :disabled="disabled"
      @keydown.enter.prevent="use"
    />
    <el-button size="small" :disabled="!typed || disabled" @click="use">Use</el-button>
  </div>
</template>
