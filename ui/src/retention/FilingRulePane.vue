<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { becomeDue } from '@/shared/consequences'
import { plural } from '@/shared/format'
import MarkedText from '@/shared/MarkedText.vue'
import WhyDialog from '@/shared/WhyDialog.vue'
import { precisionWords } from './filing'

const { rule } = defineProps<{ rule: Schemas['FilingRuleView'] }>()
const emit = defineEmits<{ change: [] }>()
const path = { params: { path: { id: rule.id } } }
const { act, busy, problem } = useAct(['filing'])
const { act: mark, problem: unmarked } = useAct(['filing'], { inTurn: true })
const samples = useQuery({
  queryKey: ['filing-rules', rule.id, 'samples'],
  queryFn: () => take(api.GET('/api/filing-rules/{id}/samples', path)),
})
const activating = ref(false)
const list = (group: string) =>
  take(api.POST('/api/filing-rules/{id}/consequences/{group}', { params: { path: { id: rule.id, group } } }))
const preview = useQuery({
  queryKey: ['filing-rules', rule.id, 'consequences'],
  queryFn: () => take(api.POST('/api/filing-rules/{id}/consequences', path)),
  enabled: computed(() => activating.value),
  gcTime: 0,
})
const due = computed(() => preview.data.value?.figures.becomeDue.items ?? 0)
const says = computed(
  () =>
    `Put into force — file ${plural(preview.data.value?.figures.inReach.items ?? 0, 'item')}` +
    (due.value ? `, ${becomeDue(due.value)}` : ''),
)

const judge = (sample: Schemas['FilingSample'], right: boolean) =>
  mark(() =>
    take(
      api.PUT('/api/filing-rules/{id}/samples/{item}', {
        params: { path: { id: rule.id, item: sample.item.id } },
        body: { right: sample.right === right ? null : right },
      }),
    ),
  )
async function activate(why: string) {
  const done = await act(async () => {
    await take(
      api.POST('/api/filing-rules/{id}/activation', {
        ...path,
        ...ifMatch(rule.revision),
        body: { fingerprint: preview.data.value!.fingerprint, why },
      }),
    )
    ElMessage({ message: 'The rule is in force. What exists is being filed.', type: 'success' })
  })
  if (done) activating.value = false
}
const stop = () => act(() => take(api.POST('/api/filing-rules/{id}/stop', { ...path, ...ifMatch(rule.revision) })))
</script>

<template>
  <section class="panel block" :aria-label="rule.name">
    <header class="acts-row">
      <h2>{{ rule.name }}</h2>
      <span class="small quiet">Precision: {{ precisionWords(rule.precision) }}</span>
      <span class="right"
        ><template v-if="rule.mayWrite"
          ><el-button @click="emit('change')">Change</el-button
          ><el-button v-if="rule.state === 'active'" :loading="busy" @click="stop">Stop it</el-button
          ><el-button v-else type="primary" @click="((problem = null), (activating = true))"
            >Put into force …</el-button
          ></template
        ></span
      >
    </header>
    <p v-if="unmarked ?? (!activating && problem)" class="problem" role="alert">{{ (unmarked ?? problem)!.message }}</p>
    <p class="small quiet">
      Samples of what it finds, spread over all. Say of each whether it belongs under {{ rule.series.code }}
      {{ rule.series.title }}.
    </p>
    <table class="sheet">
      <thead>
        <tr>
          <th>Item</th>
          <th>Words that matched</th>
          <th>Belongs there?</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in samples.data.value ?? []" :key="s.item.id">
          <td>
            <RouterLink :to="`/content?item=${s.item.id}`"
              ><MarkedText :text="s.item.title" :marks="s.item.found?.title ?? []"
            /></RouterLink>
            <div class="small quiet">{{ s.item.container }}</div>
          </td>
          <td class="small">
            <MarkedText
              v-if="s.item.found?.snippet"
              :text="s.item.found.snippet"
              :marks="s.item.found.snippetMarks"
            /><span v-else class="quiet">{{ rule.definition.kinds.map((k) => k.kind).join(', ') }}</span>
          </td>
          <td class="judge">
            <button class="chip" :aria-pressed="s.right === true" :disabled="!rule.mayWrite" @click="judge(s, true)">
              right</button
            ><button class="chip" :aria-pressed="s.right === false" :disabled="!rule.mayWrite" @click="judge(s, false)">
              wrong
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="samples.data.value?.length === 0" class="quiet">It finds nothing that it may file.</p>
    <WhyDialog
      v-if="activating"
      title="Put the rule into force"
      :says="says"
      :danger="!!due"
      :ready="!!preview.data.value && !preview.isFetching.value"
      :busy="busy"
      :problem="problem"
      @go="activate"
      @close="activating = false"
    >
      <Consequences
        :view="preview.data.value"
        :loading="preview.isFetching.value"
        :problem="preview.error.value?.message"
        of="rule"
        :load="list"
      />
    </WhyDialog>
  </section>
</template>

<style scoped>
.right {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.judge {
  white-space: nowrap;
  width: 130px;
}
.judge .chip {
  margin-right: 4px;
}
</style>
