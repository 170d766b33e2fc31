<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { gathered, useShown } from '@/shared/parts'

/** What the parts offer to do with items that are marked: a button each, and the panel of the one that was pressed. */
defineProps<{ selection: Schemas['ItemQuery']; items: number; suggested?: number }>()
const emit = defineEmits<{ done: [] }>()
const acts = useShown(gathered((p) => p.itemActs))
const open = ref<string | null>(null)
const panel = computed(() => acts.value.find((a) => a.key === open.value)?.component)
function done() {
  open.value = null
  emit('done')
}
</script>

<template>
  <el-button
    v-for="a in acts"
    :key="a.key"
    size="small"
    :type="a.primary ? 'primary' : 'default'"
    @click="open = a.key"
    >{{ a.label }}</el-button
  >
  <component
    :is="panel"
    v-if="panel"
    :selection="selection"
    :items="items"
    :suggested="suggested"
    @close="open = null"
    @done="done"
  />
</template>
