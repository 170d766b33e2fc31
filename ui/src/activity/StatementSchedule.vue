<script setup lang="ts">
import { computed } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'

/** How often a kept statement is asked by itself; what is new then comes by message. */
const { statement } = defineProps<{ statement: Schemas['SavedStatementView'] }>()
const { act, busy, problem } = useAct(['statements'])
const rhythms = { never: 'never', daily: 'every morning', weekly: 'every week', monthly: 'every month' }
const rhythm = computed({
  get: () => statement.rhythm ?? 'never',
  set: (chosen: string) =>
    void act(() =>
      take(
        api.PUT('/api/statements/{id}/schedule', {
          params: { path: { id: statement.id } },
          body: { rhythm: chosen === 'never' ? null : (chosen as Schemas['StatementRhythm']) },
        }),
      ),
    ),
})
</script>

<template>
  <p class="small">
    <label for="rhythm">“{{ statement.name }}” is asked by itself</label>&nbsp;
    <el-select id="rhythm" v-model="rhythm" size="small" class="rhythm" :disabled="busy"
      ><el-option v-for="(word, key) in rhythms" :key="key" :value="key" :label="word"
    /></el-select>
    <span v-if="!statement.rhythm" class="quiet"> Rows that are new since the last time come by message.</span>
    <span v-else-if="statement.lastFailed" class="lacking">
      ▲ no answer on {{ day(statement.lastRunOn!) }}: {{ statement.lastSaid }}</span
    >
    <span v-else-if="statement.lastSaid" class="quiet">
      last on {{ day(statement.lastRunOn!) }}: {{ statement.lastSaid }}</span
    >
    <span v-else class="quiet"> What it answers today is known; rows that are new come by message.</span>
    <span v-if="problem" class="problem" role="alert">{{ problem.message }}</span>
  </p>
</template>

<style scoped>
.rhythm {
  width: 130px;
}
</style>
