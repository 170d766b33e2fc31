<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

export type Narrowing = { query?: string; coded?: 'yes' | 'no'; tag?: number }
/** Narrows what a sweep found by words and by coding, and codes all of what is left at once. */
const { tags, total, fixed } = defineProps<{
  tags: readonly Schemas['TagView'][]
  total: number
  /** What is shown is a term's figure, which has words of its own. */
  fixed: boolean
  may: boolean
  busy: boolean
}>()
const emit = defineEmits<{ narrow: [Narrowing]; code: [tag: number, on: boolean, note: string] }>()
const words = ref('')
const asked = ref('')
const which = ref('all')
const bulk = reactive({ tag: undefined as number | undefined, note: '' })
watch([asked, which], () =>
  emit('narrow', {
    ...(asked.value && { query: asked.value }),
    ...(which.value === 'yes' || which.value === 'no' ? { coded: which.value } : {}),
    ...(which.value.startsWith('tag ') && { tag: Number(which.value.slice(4)) }),
  }),
)
</script>

<template>
  <div class="bar">
    <form v-if="!fixed" @submit.prevent="asked = words.trim()">
      <el-input
        v-model="words"
        size="small"
        class="words"
        clearable
        placeholder="among these, words or a query"
        aria-label="Words or a query among these"
        @clear="asked = ''"
      />
    </form>
    <el-select v-model="which" size="small" class="which" aria-label="Coding">
      <el-option value="all" label="Coded or not" />
      <el-option value="no" label="Not coded yet" />
      <el-option value="yes" label="Coded" />
      <el-option v-for="t in tags" :key="t.id" :value="`tag ${t.id}`" :label="t.name" />
    </el-select>
    <form v-if="may && total" class="all" @submit.prevent="bulk.tag && emit('code', bulk.tag, true, bulk.note)">
      <span class="small">All {{ count(total) }}:</span>
      <el-select v-model="bulk.tag" size="small" class="tag" placeholder="tag" aria-label="Tag for all of these">
        <el-option v-for="t in tags" :key="t.id" :value="t.id" :label="t.name" />
      </el-select>
      <el-input v-model="bulk.note" size="small" class="note" maxlength="500" placeholder="note" aria-label="Note" />
      <el-button size="small" native-type="submit" :disabled="!bulk.tag" :loading="busy">Put it on</el-button
      ><el-button size="small" :disabled="!bulk.tag || busy" @click="emit('code', bulk.tag!, false, '')"
        >Take it off</el-button
      >
    </form>
  </div>
</template>

<style scoped>
.bar,
.all {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.bar {
  margin: 6px 0 8px;
}
.words {
  width: 210px;
}
.which {
  width: 150px;
}
.tag {
  width: 140px;
}
.note {
  width: 150px;
}
</style>
