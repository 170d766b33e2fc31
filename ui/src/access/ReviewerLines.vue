<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import ShowMore from '@/shared/ShowMore.vue'
import { decisionWords } from './words'

/** All lines of a reviewer, to be searched and gone to. */
type Line = Schemas['ReviewLineView']
const { lines, at } = defineProps<{ lines: Line[]; at: number }>()
const emit = defineEmits<{ go: [index: number] }>()
const search = ref('')
const which = ref<'all' | 'open' | 'remove' | 'keep'>('all')
const fits = (l: Line) =>
  (which.value === 'all' ||
    (which.value === 'open' ? l.decision === 'open' : l.adviseRemoval === (which.value === 'remove'))) &&
  `${l.personName} ${l.person} ${l.whatName} ${l.roles}`.toLowerCase().includes(search.value.trim().toLowerCase())
const found = computed(() => lines.map((line, index) => ({ line, index })).filter((f) => fits(f.line)))
const shown = ref(60)
</script>

<template>
  <section aria-label="All lines">
    <div v-if="lines.length > 5" class="find">
      <el-input v-model="search" size="small" placeholder="Person, place or role" aria-label="Search the lines" />
      <el-radio-group v-model="which" size="small" aria-label="Which lines"
        ><el-radio-button value="all">All</el-radio-button><el-radio-button value="open">Open</el-radio-button
        ><el-radio-button value="remove">Advice: remove</el-radio-button
        ><el-radio-button value="keep">Advice: keep</el-radio-button></el-radio-group
      >
    </div>
    <p v-if="!found.length" class="small quiet">No line matches.</p>
    <ol>
      <li v-for="f in found.slice(0, shown)" :key="f.line.id">
        <button class="link" :aria-current="f.index === at" @click="emit('go', f.index)">
          {{ f.line.personName }} · {{ f.line.whatName }}</button
        >{{ ' ' }}
        <span class="small" :class="f.line.decision === 'open' ? 'quiet' : 'settled'">
          {{ decisionWords[f.line.decision] }}</span
        >
      </li>
    </ol>
    <ShowMore v-model="shown" :of="found.length" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
  font-size: 14px;
}
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.find .el-input {
  flex: 1 1 180px;
}
p,
ol {
  margin: 0;
}
ol {
  padding: 0;
  list-style: none;
}
.settled {
  color: var(--sea);
}
</style>
