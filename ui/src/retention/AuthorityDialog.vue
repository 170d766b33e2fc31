<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { cutoffWords, type Cutoff } from '@/shared/words'
import { keepTyped } from '@/shared/typed'

const { authority } = defineProps<{ authority: Schemas['AuthorityView'] | null }>()
const emit = defineEmits<{ close: [] }>()
type Clause = Schemas['ClauseText']
const empty = (): Clause => ({ trigger: 'created', cutoff: 'none', period: 'P6Y' })
const form = reactive({
  code: authority?.code ?? '',
  ...(authority
    ? (JSON.parse(JSON.stringify(authority.definition)) as Schemas['AuthorityDefinition'])
    : {
        citation: '',
        issuer: '',
        jurisdiction: '',
        subject: '',
        join: 'later' as const,
        least: [empty()],
        most: null,
        note: '',
        origin: '',
      }),
})
const saved = keepTyped(`authority.${authority?.id ?? 'new'}`, form)
const shown = ref(true)
const { act, busy, problem } = useAct(['schedule'])
const texts = [
  { key: 'citation', label: 'Citation', hint: '29 CFR 516.5' },
  { key: 'subject', label: 'About', hint: 'Payroll records, from the last date of entry' },
  { key: 'issuer', label: 'Issuer', hint: '' },
  { key: 'jurisdiction', label: 'Jurisdiction', hint: '' },
  { key: 'origin', label: 'Where the value comes from', hint: 'The published text of 1 March 2026' },
  { key: 'note', label: 'Note', hint: '' },
] as const
const cutoffs = Object.entries(cutoffWords) as [Cutoff, string][]

async function save() {
  const { code, ...definition } = form
  const done = await act(() =>
    authority
      ? take(
          api.PUT('/api/authorities/{id}', {
            params: { path: { id: authority.id } },
            ...ifMatch(authority.revision),
            body: definition,
          }),
        )
      : take(api.POST('/api/authorities', { body: { code: code.trim(), definition } })),
  )
  if (done) {
    saved()
    shown.value = false
  }
}
</script>

<template>
  <el-dialog
    v-model="shown"
    :title="authority ? authority.code : 'New authority'"
    width="620"
    append-to-body
    @closed="emit('close')"
  >
    <form class="fields" @submit.prevent="save">
      <template v-if="!authority"
        ><label class="label" for="a-code">Code, by which series cite it</label
        ><el-input id="a-code" v-model="form.code" placeholder="29 CFR 516.5"
      /></template>
      <template v-for="t in texts" :key="t.key"
        ><label class="label" :for="`a-${t.key}`">{{ t.label }}</label
        ><el-input :id="`a-${t.key}`" v-model="form[t.key]" :placeholder="t.hint"
      /></template>
      <span class="label"
        >At least<template v-if="form.least.length > 1"
          >, the
          <select v-model="form.join" class="box short" aria-label="Join">
            <option value="later">later</option>
            <option value="earlier">earlier</option>
          </select>
          of</template
        ></span
      >
      <div v-for="(c, i) in form.least" :key="i" class="clause">
        <input v-model="c.period" class="box" :aria-label="`Least period ${i + 1}`" placeholder="P6Y" /> after
        <select v-model="c.cutoff" class="box" :aria-label="`Cutoff ${i + 1}`">
          <option v-for="[v, w] in cutoffs" :key="v" :value="v">
            {{ v === 'none' ? 'the day' : `the end of the ${w}` }}
          </option>
        </select>
        of
        <input
          v-model="c.trigger"
          class="box"
          :aria-label="`Trigger ${i + 1}`"
          placeholder="created, field:closed, event:left"
        /><el-button size="small" @click="form.least.splice(i, 1)">Remove</el-button>
      </div>
      <div>
        <el-button size="small" @click="form.least.push(empty())">{{
          form.least.length ? 'Add another clock' : 'Add a least period'
        }}</el-button>
        {{ ' ' }}
        <el-button v-if="!form.most" size="small" @click="form.most = empty()">Add a most</el-button>
      </div>
      <template v-if="form.most"
        ><span class="label">At most</span>
        <div class="clause">
          <input v-model="form.most.period" class="box" aria-label="Most period" /> after
          <select v-model="form.most.cutoff" class="box" aria-label="Cutoff of the most">
            <option v-for="[v, w] in cutoffs" :key="v" :value="v">
              {{ v === 'none' ? 'the day' : `the end of the ${w}` }}
            </option>
          </select>
          of <input v-model="form.most.trigger" class="box" aria-label="Trigger of the most" /><el-button
            size="small"
            @click="form.most = null"
            >Remove</el-button
          >
        </div></template
      >
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    </form>
    <template #footer
      ><el-button @click="shown = false">Leave it</el-button
      ><el-button type="primary" :loading="busy" @click="save">{{ authority ? 'Save' : 'Add' }}</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
.clause {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13.5px;
}
.box {
  min-width: 0;
  flex: 1;
}
.short {
  flex: none;
}
</style>
