<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { may } from '@/shared/session'
import QueryField from '@/shared/QueryField.vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { confidenceWords } from '@/shared/words'
import type { RuleBeginning } from './filing'
import { keepTyped } from '@/shared/typed'
import { seriesNames } from '@/shared/series'

const { rule, beginning } = defineProps<{ rule: Schemas['FilingRuleView'] | null; beginning?: RuleBeginning }>()
const emit = defineEmits<{ close: []; made: [id: number] }>()
const shown = ref(true)
const { act, busy, problem } = useAct(['filing'])
const series = useQuery(seriesNames)
const kinds = useQuery({
  queryKey: ['sensitive'],
  queryFn: () => take(api.GET('/api/sensitive')),
  enabled: may('readSensitive'),
})
const form = reactive({
  name: rule?.name ?? beginning?.name ?? '',
  seriesId: rule?.series.id ?? beginning?.seriesId ?? null,
  query: rule?.definition.query ?? '',
  kinds: rule
    ? rule.definition.kinds.map((k) => ({ ...k }))
    : beginning
      ? [{ kind: beginning.kind, least: 'likely' as Schemas['Confidence'], count: 1 }]
      : [],
  priority: rule?.priority ?? 10,
})
const saved = keepTyped(`filing-rule.${rule?.id ?? 'new'}`, form)
const least = Object.entries(confidenceWords) as [Schemas['Confidence'], string][]

async function save() {
  const body = {
    name: form.name,
    seriesId: form.seriesId ?? 0,
    definition: { query: form.query.trim() || null, kinds: form.kinds },
    priority: form.priority,
  }
  const done = await act(async () => {
    const made = await (rule
      ? take(api.PUT('/api/filing-rules/{id}', { params: { path: { id: rule.id } }, ...ifMatch(rule.revision), body }))
      : take(api.POST('/api/filing-rules', { body })))
    emit('made', made.id)
  })
  if (done) {
    saved()
    shown.value = false
  }
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="rule ? rule.name : 'New filing rule'"
    width="640"
    append-to-body
    @closed="emit('close')"
  >
    <form class="fields" @submit.prevent="save">
      <label class="label" for="f-name">Name</label
      ><el-input id="f-name" v-model="form.name" placeholder="Passport copies" />
      <span class="label">Finds what this query finds</span><QueryField v-model="form.query" />
      <span class="label">and holds</span>
      <div v-for="(k, i) in form.kinds" :key="i" class="kind">
        <el-select v-model="k.kind" filterable :aria-label="`Kind ${i + 1}`"
          ><el-option v-for="o in kinds.data.value?.kinds ?? []" :key="o.name" :value="o.name" :label="o.title"
        /></el-select>
        <select v-model="k.least" class="box" :aria-label="`Least confidence ${i + 1}`">
          <option v-for="[v, w] in least" :key="v" :value="v">at least {{ w }}</option>
        </select>
        <input
          v-model.number="k.count"
          class="box count"
          type="number"
          min="1"
          :aria-label="`Count ${i + 1}`"
        /><el-button size="small" @click="form.kinds.splice(i, 1)">Remove</el-button>
      </div>
      <div v-if="may('readSensitive')">
        <el-button size="small" @click="form.kinds.push({ kind: '', least: 'likely', count: 1 })"
          >Add a sensitive kind</el-button
        >
      </div>
      <label class="label" for="f-series">Files it under</label>
      <el-select id="f-series" v-model="form.seriesId" filterable aria-label="Series" placeholder="Series"
        ><el-option
          v-for="s in series.data.value?.filter((s) => s.state !== 'retired') ?? []"
          :key="s.id"
          :value="s.id"
          :label="`${s.code} ${s.title}`"
      /></el-select>
      <label class="label" for="f-priority">Priority, 0 to 1,000; of two rules the higher files</label
      ><input id="f-priority" v-model.number="form.priority" class="box count" type="number" min="0" max="1000" />
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <p class="small quiet">
        {{
          rule?.state === 'active'
            ? 'Another query, kind or series puts it on trial again; what people judged was another rule.'
            : 'It begins on trial: it shows what it would file, and files nothing.'
        }}
      </p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" :disabled="!form.seriesId" @click="save">{{
        rule ? 'Save' : 'Put it on trial'
      }}</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.kind {
  display: grid;
  grid-template-columns: 1fr auto auto auto;
  gap: 6px;
  align-items: center;
}
.box {
  height: 32px;
}
.count {
  width: 84px;
}
</style>
