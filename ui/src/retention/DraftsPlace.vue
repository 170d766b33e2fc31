<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'
import SchedulePage from './SchedulePage.vue'

/** Drafts that stay drafts; all others take effect together. */
const leftOut = ref(new Set<string>())
const only = ref<string[] | null>(null)
const query = computed(() => (only.value ? { only: only.value.join(',') } : {}))
const { act, busy, problem } = useAct(['schedule'], { refused: () => refetch() })
const { data, error, isFetching, refetch } = useQuery({
  queryKey: computed(() => ['drafts', only.value]),
  queryFn: () => take(api.GET('/api/schedule/drafts', { params: { query: query.value } })),
  placeholderData: keepPreviousData,
})
const keyOf = (d: { kind: string; id: number }) => `${d.kind}-${d.id}`
const chosen = computed(() => (data.value?.drafts ?? []).filter((d) => !leftOut.value.has(keyOf(d))))
function choose(key: string, on: boolean) {
  const next = new Set(leftOut.value)
  if (on) next.delete(key)
  else next.add(key)
  leftOut.value = next
  only.value = next.size ? (data.value?.drafts ?? []).map(keyOf).filter((k) => !next.has(k)) : null
}
const adopting = ref(false)
const due = computed(() => data.value?.consequences.figures.becomeDue.items ?? 0)
const says = computed(
  () => `Put ${plural(chosen.value.length, 'draft')} into effect${due.value ? ' —' : ','} ${becomeDue(due.value)}`,
)

async function adopt(why: string) {
  const done = await act(async () => {
    await take(
      api.POST('/api/schedule/adoption', {
        body: { fingerprint: data.value!.consequences.fingerprint, why, drafts: chosen.value.map(keyOf) },
      }),
    )
    leftOut.value = new Set()
    only.value = null
    ElMessage({ message: 'The drafts are in force.', type: 'success' })
  })
  if (done) adopting.value = false
}
</script>

<template>
  <SchedulePage
    :within="{ to: '/schedule', label: 'Series' }"
    title="Drafts"
    note="all together, against what is in force"
    :problem="error?.message ?? (adopting ? null : problem?.message)"
  >
    <section v-if="data?.drafts.length === 0" class="panel block">
      <h2>No draft waits</h2>
      <p class="quiet">
        Change a series or a blanket, or bring the schedule back from a spreadsheet: the drafts stand here until they
        are put into effect.
      </p>
    </section>
    <template v-else-if="data">
      <section class="panel block" aria-label="Drafts">
        <table class="sheet">
          <thead>
            <tr>
              <th><span class="sr">Selected</span></th>
              <th>Draft</th>
              <th>Rule now</th>
              <th>Rule then</th>
              <th>By</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in data.drafts" :key="keyOf(d)">
              <td class="mark">
                <input
                  type="checkbox"
                  :checked="!leftOut.has(keyOf(d))"
                  :disabled="chosen.length === 1 && !leftOut.has(keyOf(d))"
                  :aria-label="`${d.code} ${d.title} takes effect`"
                  @change="choose(keyOf(d), ($event.target as HTMLInputElement).checked)"
                />
              </td>
              <td>
                <RouterLink :to="d.kind === 'series' ? `/schedule/${d.id}` : `/schedule/blankets?blanket=${d.id}`"
                  >{{ d.code }} {{ d.title }}</RouterLink
                >
              </td>
              <td>{{ d.ruleNow ?? 'not in force yet' }}</td>
              <td>{{ d.rule }}</td>
              <td>{{ d.by }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <Consequences
        :view="data.consequences"
        :loading="isFetching"
        of="draft schedule"
        :load="(group) => take(api.GET('/api/schedule/drafts/{group}', { params: { path: { group }, query } }))"
      />
      <p class="acts-row">
        <el-button
          :type="due ? 'danger' : 'primary'"
          :disabled="isFetching"
          @click="((problem = null), (adopting = true))"
          >{{ says }}</el-button><span class="small quiet">Or open one of them, and put it into effect by itself.</span>
      </p>
    </template>
    <WhyDialog
      v-if="adopting"
      :title="`Put ${plural(chosen.length, 'draft')} into effect`"
      :says="says"
      :danger="!!due"
      :busy="busy"
      :problem="problem"
      label="Why, for each version’s history"
      @go="adopt"
      @close="adopting = false"
    >
      <p>
        {{ plural(chosen.length, 'draft') }} over {{ plural(data!.consequences.figures.inReach.items, 'item') }} take
        effect together, or none does.
      </p>
    </WhyDialog>
  </SchedulePage>
</template>

<style scoped>
.mark {
  width: 36px;
}
</style>
