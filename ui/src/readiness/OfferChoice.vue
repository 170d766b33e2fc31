<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'

/** Selects proofs and submits them for a request of an audit. */
const { audit, number } = defineProps<{ audit: number; number: number }>()
const emit = defineEmits<{ done: [] }>()
const search = ref('')
const chosen = ref<number[]>([])
const shown = ref(20)
const path = computed(() => ({ params: { path: { id: audit, number } } }))
const { data, error } = useQuery({
  queryKey: computed(() => ['audits', 'candidates', audit, number, search.value]),
  queryFn: () =>
    take(
      api.GET('/api/audits/{id}/requests/{number}/candidates', {
        params: { path: { id: audit, number }, query: { search: search.value } },
      }),
    ),
  placeholderData: keepPreviousData,
})
const { act, busy, problem } = useAct(['readiness'])
async function offer() {
  const body = { proofs: chosen.value }
  if (await act(() => take(api.POST('/api/audits/{id}/requests/{number}/offer', { ...path.value, body })))) emit('done')
}
</script>

<template>
  <div class="choice">
    <el-input v-model="search" size="small" placeholder="Control, part or file" aria-label="Search evidence" />
    <p v-if="data?.length === 0" class="small quiet">No evidence matches.</p>
    <ul class="small">
      <li v-for="c in data?.slice(0, shown)" :key="c.id">
        <label class="check"
          ><input v-model="chosen" type="checkbox" :value="c.id" :disabled="c.offered" />
          <span
            ><strong>{{ c.control }}</strong> {{ c.title }}: {{ c.proof.fileName || c.proof.says }}
            <span class="quiet">{{ day(c.proof.day) }}</span>
            <span v-if="c.outside" class="lacking"> ▲ outside the period</span>
            <span v-if="c.offered" class="quiet"> submitted</span></span
          ></label
        >
      </li>
    </ul>
    <ShowMore v-model="shown" :of="data?.length ?? 0" />
    <p v-if="problem ?? error" class="problem" role="alert">{{ (problem ?? error)!.message }}</p>
    <p class="acts-row">
      <el-button size="small" type="primary" :disabled="!chosen.length" :loading="busy" @click="offer"
        >Submit {{ plural(chosen.length, 'proof') }}</el-button
      >
      <button class="link" @click="emit('done')">Cancel</button>
    </p>
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
p,
ul {
  margin: 0;
}
ul {
  padding: 0;
  list-style: none;
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
