<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { moment } from '@/shared/format'
import { may } from '@/shared/session'

/** What was done in the directory about an alert, what can be undone, and what waits for a second person. */
const { alert, acts } = defineProps<{ alert: number; acts: Schemas['AlertActView'][] }>()
const { act, busy, problem } = useAct(['watches', 'directory'])
const declining = ref<number | null>(null)
const why = ref('')
const path = (id: number) => ({ params: { path: { id: alert, act: id } } })
const undo = (id: number) => act(() => take(api.POST('/api/alerts/{id}/acts/{act}/undo', path(id))))
async function decide(id: number, agree: boolean) {
  const body = { agree, why: agree ? '' : why.value }
  if (await act(() => take(api.POST('/api/alerts/{id}/acts/{act}/decision', { ...path(id), body })))) {
    declining.value = null
    why.value = ''
  }
}
</script>

<template>
  <ul class="done" aria-label="What was done in the directory">
    <li v-for="a in acts" :key="a.id">
      <template v-if="a.waits">
        <strong class="waits">◷ {{ a.by }} asks for a second person:</strong> {{ a.words }}, {{ moment(a.at) }}.
        <span v-if="a.mayNotDecide" class="quiet">{{ a.mayNotDecide }}</span>
        <form v-else-if="declining === a.id" class="row" @submit.prevent="decide(a.id, false)">
          <el-input v-model="why" size="small" aria-label="Why not" placeholder="Why not" />
          <el-button size="small" native-type="submit" :loading="busy" :disabled="!why.trim()"
            >I do not agree</el-button
          >
          <button type="button" class="link" @click="declining = null">Leave it</button>
        </form>
        <span v-else-if="may('manageWatches')" class="row">
          <el-button size="small" type="danger" plain :loading="busy" @click="decide(a.id, true)"
            >I agree: do it</el-button
          >
          <el-button size="small" :disabled="busy" @click="declining = a.id">I do not agree …</el-button>
        </span>
      </template>
      <template v-else-if="a.failure"
        ><strong class="lacking">▲ {{ a.failure }}</strong> {{ a.by }} asked for it {{ moment(a.at) }}:
        {{ a.words }}.</template
      >
      <template v-else
        >{{ a.by }} {{ a.words }}, {{ moment(a.at)
        }}<template v-if="a.decidedBy">, and {{ a.decidedBy }} agreed</template>;
        <span class="settled">{{ a.verified ? '✓ the directory shows it' : 'not seen in the directory yet' }}</span>.
        <span v-if="a.undoneAt" class="quiet">Undone {{ moment(a.undoneAt) }}.</span>
        <button v-else-if="a.undoable && may('manageWatches')" class="link" :disabled="busy" @click="undo(a.id)">
          Undo
        </button></template
      >
    </li>
    <li v-if="problem" class="problem" role="alert">{{ problem.message }}</li>
  </ul>
</template>

<style scoped>
ul {
  margin: 0;
  padding-left: 18px;
}
li {
  min-height: 26px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 4px 0;
}
.row .el-input {
  max-width: 320px;
}
.el-button {
  margin: 0;
}
.settled {
  color: var(--sea);
}
.waits {
  color: var(--copper);
}
</style>
