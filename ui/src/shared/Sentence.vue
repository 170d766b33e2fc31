<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import ClauseParts from './ClauseParts.vue'
import SentencePart from './SentencePart.vue'
import StagesEditor from './StagesEditor.vue'
import { endWords, stageOf } from './words'

type Definition = Schemas['SeriesDefinition']
type Clause = Schemas['ClauseText']

const props = defineProps<{
  definition: Definition
  /** What rules now: parts that differ show the old value struck. */
  inForce?: Definition | null
  editable?: boolean
  /** Names of date fields that items have, and of types of event. */
  fields?: readonly string[]
  events?: readonly string[]
  /** Who can be named for a stage. */
  colleagues?: readonly Schemas['Colleague'][]
}>()
const emit = defineEmits<{ change: [Partial<Definition>] }>()

const open = ref<string | null>(null)
const clauses = computed(() => props.definition.clauses)
const first: Clause = { trigger: 'created', cutoff: 'none', period: 'P7Y' }
/** Clauses are compared one by one only where there are as many. */
const wasClause = (i: number) =>
  props.inForce && !props.inForce.permanent && props.inForce.clauses.length === clauses.value.length
    ? props.inForce.clauses[i]
    : null
const several = computed(() => clauses.value.length > 1)
const was = computed(() => ({
  term:
    props.inForce && props.inForce.permanent !== props.definition.permanent
      ? props.inForce.permanent
        ? 'permanently'
        : 'for a time'
      : null,
  join:
    props.inForce && several.value && props.inForce.clauses.length > 1 && props.inForce.join !== props.definition.join
      ? props.inForce.join
      : null,
  end:
    props.inForce && !props.inForce.permanent && endWords(props.inForce) !== endWords(props.definition)
      ? endWords(props.inForce)
      : null,
}))

const setClause = (index: number, part: Partial<Clause>) =>
  emit('change', { clauses: clauses.value.map((c, i) => (i === index ? { ...c, ...part } : c)) })
const addClause = () => emit('change', { clauses: [...clauses.value, { ...first }] })
const removeClause = (index: number) => emit('change', { clauses: clauses.value.filter((_, i) => i !== index) })
function setPermanent(permanent: boolean) {
  emit(
    'change',
    permanent
      ? { permanent, atEnd: 'nothing' }
      : { permanent, clauses: clauses.value.length ? clauses.value : [{ ...first }] },
  )
  open.value = null
}
const signed = (atEnd: Definition['atEnd']) => atEnd === 'signOff' || atEnd === 'transfer'
function setEnd(atEnd: Definition['atEnd']) {
  emit('change', {
    atEnd,
    stages:
      signed(atEnd) && props.definition.stages.length < 2
        ? [stageOf('recordsManager'), stageOf('recordsManager')]
        : props.definition.stages,
  })
}
/** How one clause is joined to the next. */
const between = (i: number) => (i === clauses.value.length - 1 ? '' : i === clauses.value.length - 2 ? ' and ' : ', ')
</script>

<template>
  <p class="sentence" :class="{ editable }">
    Keep
    <template v-if="definition.permanent">
      {{ ' ' }}
      <SentencePart
        v-model:open="open"
        name="term"
        label="How long"
        words="permanently"
        :was="was.term"
        :editable="editable"
      >
        <div class="editor">
          <label class="check"><input type="checkbox" checked @change="setPermanent(false)" /> permanently</label>
          <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
        </div> </SentencePart
      >.
    </template>
    <template v-else>
      <s v-if="was.term" class="was">{{ was.term }}</s>
      {{ several ? 'until the ' : '' }}
      <template v-if="several">
        <SentencePart
          v-model:open="open"
          name="join"
          label="Which of the clocks decides"
          :words="definition.join"
          :was="was.join"
          :editable="editable"
          :width="320"
        >
          <div class="part-menu" role="listbox" aria-label="Which of the clocks decides">
            <button
              role="option"
              :aria-selected="definition.join === 'later'"
              @click="(emit('change', { join: 'later' }), (open = null))"
            >
              later: while one waits, it is kept
            </button>
            <button
              role="option"
              :aria-selected="definition.join === 'earlier'"
              @click="(emit('change', { join: 'earlier' }), (open = null))"
            >
              earlier: of those that have a date
            </button>
          </div>
        </SentencePart>
        of {{ ' ' }}
      </template>
      <template v-for="(clause, i) in clauses" :key="i">
        <ClauseParts
          v-model:open="open"
          :clause="clause"
          :was="wasClause(i)"
          :editable="editable"
          :fields="fields"
          :events="events"
          :suffix="i ? `-${i + 1}` : ''"
          :single="!several"
          @change="setClause(i, $event)"
          @add="addClause"
          @remove="removeClause(i)"
          @permanent="setPermanent(true)"
        />{{ between(i) }} </template
      >&NoBreak;; then
      {{ ' ' }}
      <SentencePart
        v-model:open="open"
        name="end"
        label="What happens at the end"
        :words="endWords(definition)"
        :was="was.end"
        :editable="editable"
        :width="330"
      >
        <div class="editor">
          <label class="check"
            ><input type="radio" name="at-end" :checked="definition.atEnd === 'signOff'" @change="setEnd('signOff')" />
            it is destroyed after sign-off</label
          >
          <label class="check"
            ><input type="radio" name="at-end" :checked="definition.atEnd === 'destroy'" @change="setEnd('destroy')" />
            it is destroyed at once, without sign-off</label
          >
          <label class="check"
            ><input
              type="radio"
              name="at-end"
              :checked="definition.atEnd === 'transfer'"
              @change="setEnd('transfer')"
            />
            it is handed over to an archive after sign-off</label
          >
          <label class="check"
            ><input type="radio" name="at-end" :checked="definition.atEnd === 'nothing'" @change="setEnd('nothing')" />
            nothing happens; it is free</label
          >
          <StagesEditor
            v-if="signed(definition.atEnd)"
            :stages="definition.stages"
            :colleagues="colleagues ?? []"
            @change="emit('change', { stages: $event })"
          />
          <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
        </div> </SentencePart
      >{{
        definition.atEnd === 'signOff'
          ? ' and it is destroyed'
          : definition.atEnd === 'transfer'
            ? ' and it is handed over to an archive'
            : ''
      }}.
    </template>
  </p>
</template>
