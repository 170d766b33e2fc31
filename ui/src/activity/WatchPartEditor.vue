<script setup lang="ts">
import LengthEditor from './LengthEditor.vue'
import { valueOf, type Part, type Rule } from './watchWords'

/** Edits one part of a watch's rule. */
const { part, rule } = defineProps<{ part: Part; rule: Rule }>()
const emit = defineEmits<{ change: [Partial<Rule>]; done: [] }>()
const put = (value: unknown) => emit('change', { [part.name]: value })
const typed = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <div v-if="part.editor === 'choice'" class="part-menu" role="listbox" :aria-label="part.label">
    <button
      v-for="c in part.choices"
      :key="c.value"
      role="option"
      :aria-selected="valueOf(part, rule) === c.value"
      @click="(put(c.value), emit('done'))"
    >
      {{ c.words }}
    </button>
  </div>
  <LengthEditor v-else-if="part.editor === 'length'" :value="valueOf(part, rule) as string" @change="put($event)" />
  <div v-else class="editor">
    <label class="label" :for="`w-${part.name}`">{{ part.label }}</label><input
      v-if="part.editor === 'number'"
      :id="`w-${part.name}`"
      class="box"
      type="number"
      min="1"
      :value="valueOf(part, rule)"
      @change="put(Number(typed($event)))"
    /><input v-else :id="`w-${part.name}`" class="box" :value="valueOf(part, rule)" @change="put(typed($event))" />
  </div>
</template>
