<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'
import { kindWords } from './words'

/** Who reaches what, with the shortest way of each. */
const { answer } = defineProps<{ answer: Schemas['ReachAnswer'] }>()
const emit = defineEmits<{ way: [pair: string] }>()
const isPerson = computed(() => ['person', 'guest', 'service'].includes(answer.about.kind))
const filter = ref('')
const sensitiveOnly = ref(false)
const rows = computed(() =>
  answer.reach.filter(
    (r) =>
      (!sensitiveOnly.value || r.sensitive) &&
      `${r.personName} ${r.resourceName} ${r.roles.join(' ')}`.toLowerCase().includes(filter.value.toLowerCase()),
  ),
)
const shown = ref(60)
</script>

<template>
  <div class="tools">
    <el-input v-model="filter" size="small" placeholder="Filter" aria-label="Filter the rows" clearable />
    <el-checkbox v-model="sensitiveOnly" size="small">sensitive only</el-checkbox>
    <span class="small quiet">{{ plural(rows.length, 'row') }}</span>
  </div>
  <table class="sheet">
    <thead>
      <tr>
        <th v-if="!isPerson && answer.about.kind !== 'group'">Who</th>
        <th v-else>Place</th>
        <th>Role</th>
        <th>Shortest way</th>
        <th v-if="answer.about.kind !== 'group'">Last used</th>
        <th v-if="answer.about.kind !== 'group'"><span class="sr">Ways</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in rows.slice(0, shown)" :key="r.person + r.resource">
        <td v-if="!isPerson && answer.about.kind !== 'group'">
          <RouterLink v-if="r.person !== 'anyone'" :to="{ path: '/access', query: { person: r.person } }">{{
            r.personName
          }}</RouterLink><strong v-else class="lacking">▲ Anyone with the link</strong>
        </td>
        <td v-else>
          <RouterLink :to="{ path: '/access', query: { resource: r.resource } }">{{ r.resourceName }}</RouterLink>
          {{ ' ' }}<span v-if="r.sensitive" class="mark">◆ sensitive</span>{{ ' ' }}
          <span class="small quiet">{{ kindWords[r.kind] }}</span>
        </td>
        <td>{{ r.roles.join(', ') }}</td>
        <td class="small way">{{ r.path.slice(answer.about.kind === 'group' ? 0 : 1).join(' → ') }}</td>
        <td v-if="answer.about.kind !== 'group'">{{ r.lastUsed ? day(r.lastUsed) : '–' }}</td>
        <td v-if="answer.about.kind !== 'group'">
          <button v-if="r.person !== 'anyone'" class="link small" @click="emit('way', `${r.person}|${r.resource}`)">
            all ways
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <ShowMore v-model="shown" :of="rows.length" />
</template>

<style scoped>
.tools {
  display: flex;
  gap: 14px;
  align-items: center;
}
.tools .el-input {
  width: 220px;
}
.mark {
  color: var(--copper);
  font-size: 12px;
}
.way {
  color: var(--ink-2);
}
</style>
