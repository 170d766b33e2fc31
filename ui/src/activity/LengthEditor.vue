<script setup lang="ts">
import { ref } from 'vue'

/** A length of time of one unit. */
const { value } = defineProps<{ value?: string | null }>()
const emit = defineEmits<{ change: [string] }>()
const units: Record<string, [string, string]> = {
  minutes: ['PT', 'M'],
  hours: ['PT', 'H'],
  days: ['P', 'D'],
}
const found = Object.entries(units).find(([, [before, after]]) =>
  new RegExp(`^${before}\\d+${after}$`).test(value ?? ''),
)
const unit = ref(found?.[0] ?? 'hours')
const number = ref(Number(/\d+/.exec(value ?? '')?.[0] ?? 1))
const put = () => {
  const [before, after] = units[unit.value]!
  emit('change', `${before}${number.value}${after}`)
}
</script>

<template>
  <div class="editor">
    <div class="row">
      <input v-model.number="number" class="box" type="number" min="0" aria-label="How many" @change="put" />
      <select v-model="unit" class="box" aria-label="Unit of time" @change="put">
        <option v-for="(_, u) in units" :key="u">{{ u }}</option>
      </select>
    </div>
  </div>
</template>
