<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import PeriodEditor from './PeriodEditor.vue'
import SentencePart from './SentencePart.vue'
import { cutoffWords, periodWords, triggerWords, type Cutoff } from './words'

type Clause = Schemas['ClauseText']

/** One clause within a sentence: how long, from the end of which period, in which what happened. */
const {
  clause,
  was = null,
  editable = false,
  fields = [],
  events = [],
  suffix = '',
  single = false,
} = defineProps<{
  clause: Clause
  /** The clause that rules now. */
  was?: Clause | null
  editable?: boolean
  /** Names of date fields that items have, and of types of event. */
  fields?: readonly string[]
  events?: readonly string[]
  /** Tells the parts of several clauses apart. */
  suffix?: string
  /** The only one: it cannot be removed, and may become “permanently”. */
  single?: boolean
}>()
const emit = defineEmits<{ change: [Partial<Clause>]; remove: []; add: []; permanent: [] }>()
const open = defineModel<string | null>('open', { required: true })
const cutoffs: Cutoff[] = ['none', 'month', 'quarter', 'year', 'fiscal']
const triggers = computed(() => [
  ...new Set([
    'created',
    'modified',
    'filed',
    ...fields.map((f) => `field:${f}`),
    ...events.map((e) => `event:${e}`),
    clause.trigger,
  ]),
])
const typed = ref('')
const differs = (words: (c: Clause) => string) => (was && words(was) !== words(clause) ? words(was) : null)

function setField() {
  const name = typed.value
    .trim()
    .toLowerCase()
    .replace(/[\s_]+/g, '-')
  if (name) emit('change', { trigger: `field:${name}` })
  open.value = null
}
</script>

<template>
  <SentencePart
    v-model:open="open"
    :name="`term${suffix}`"
    label="How long"
    :words="periodWords(clause.period)"
    :was="differs((c) => periodWords(c.period))"
    :editable="editable"
  >
    <div class="editor">
      <PeriodEditor
        :model-value="clause.period"
        :name="`period${suffix}`"
        :least="0"
        @update:model-value="emit('change', { period: $event })"
      />
      <label v-if="single" class="check"><input type="checkbox" @change="emit('permanent')" /> permanently</label>
      <div class="row">
        <el-button size="small" @click="(emit('add'), (open = null))">Add another clock</el-button
        ><el-button v-if="!single" size="small" @click="(emit('remove'), (open = null))">Remove this clock</el-button>
      </div>
      <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
    </div>
  </SentencePart>
  after the {{ clause.cutoff === 'none' ? '' : 'end of the ' }}
  <SentencePart
    v-model:open="open"
    :name="`cutoff${suffix}`"
    label="Cutoff"
    :words="cutoffWords[clause.cutoff]"
    :was="differs((c) => cutoffWords[c.cutoff])"
    :editable="editable"
    :width="220"
  >
    <div class="part-menu" role="listbox" aria-label="Cutoff">
      <button
        v-for="c in cutoffs"
        :key="c"
        role="option"
        :aria-selected="c === clause.cutoff"
        @click="(emit('change', { cutoff: c }), (open = null))"
      >
        {{ cutoffWords[c] }}
      </button>
    </div>
  </SentencePart>
  {{ clause.cutoff === 'none' ? 'on which' : 'in which' }}
  {{ ' ' }}
  <SentencePart
    v-model:open="open"
    :name="`trigger${suffix}`"
    label="Where the clock starts"
    :words="triggerWords(clause.trigger)"
    :was="differs((c) => triggerWords(c.trigger))"
    :editable="editable"
  >
    <div class="part-menu" role="listbox" aria-label="Where the clock starts">
      <button
        v-for="t in triggers"
        :key="t"
        role="option"
        :aria-selected="t === clause.trigger"
        @click="(emit('change', { trigger: t }), (open = null))"
      >
        {{ triggerWords(t) }}
      </button>
    </div>
    <div class="editor">
      <label class="label" :for="`field-name${suffix}`">or another date field</label>
      <div class="row">
        <input
          :id="`field-name${suffix}`"
          v-model="typed"
          class="box"
          placeholder="contract-ended"
          @keydown.enter.prevent="setField"
        />
        <el-button size="small" :disabled="!typed.trim()" @click="setField">Use</el-button>
      </div>
    </div>
  </SentencePart>
</template>
