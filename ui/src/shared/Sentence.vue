<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from './api/client'
import { cutoffWords, periodWords, roleWords, signers, simplePeriod, triggerWords, type Cutoff, type Role, type SimplePeriod } from './words'

type Definition = Schemas['SeriesDefinition']

const props = defineProps<{
  definition: Definition
  /** What rules now: parts that differ show the old value struck. */
  inForce?: Definition | null
  editable?: boolean
  /** Names of date fields that items have. */
  fields?: readonly string[]
}>()
const emit = defineEmits<{ change: [Partial<Definition>] }>()

const open = ref<string | null>(null)
const units = [
  { value: 'Y', label: 'years' },
  { value: 'M', label: 'months' },
  { value: 'W', label: 'weeks' },
  { value: 'D', label: 'days' },
] as const
const simple = computed(() => simplePeriod(props.definition.period))
const cutoffs: Cutoff[] = ['none', 'month', 'quarter', 'year', 'fiscal']
const triggers = computed(() => ['created', 'modified', ...(props.fields ?? []).map((f) => `field:${f}`)])
const typedField = ref('')
const typedPeriod = ref('')

const term = (d: Definition) => (d.permanent ? 'permanently' : periodWords(d.period))
const end = (d: Definition) => (d.atEnd === 'signOff' ? `${signers(d.stages)} sign${d.stages.length === 1 ? 's' : ''} off` : 'nothing happens')
const was = computed(() => ({
  term: props.inForce && term(props.inForce) !== term(props.definition) ? term(props.inForce) : null,
  cutoff: props.inForce && !props.inForce.permanent && props.inForce.cutoff !== props.definition.cutoff ? cutoffWords[props.inForce.cutoff] : null,
  trigger: props.inForce && !props.inForce.permanent && props.inForce.trigger !== props.definition.trigger ? triggerWords(props.inForce.trigger) : null,
  end: props.inForce && !props.inForce.permanent && end(props.inForce) !== end(props.definition) ? end(props.inForce) : null,
}))

function setPeriod(next: SimplePeriod) {
  emit('change', { permanent: false, period: `P${next.count}${next.unit}` })
}
function setField() {
  const name = typedField.value.trim().toLowerCase().replace(/[\s_]+/g, '-')
  if (name) emit('change', { trigger: `field:${name}` })
  open.value = null
}
function setEnd(atEnd: Definition['atEnd']) {
  emit('change', { atEnd, stages: atEnd === 'signOff' && props.definition.stages.length < 2 ? [{ role: 'recordsManager' }, { role: 'recordsManager' }] : props.definition.stages })
}
const stageRoles: Role[] = ['steward', 'recordsManager']
function setStage(index: number, role: Role) {
  emit('change', { stages: props.definition.stages.map((s, i) => (i === index ? { role } : s)) })
}
</script>

<template>
  <p class="sentence" :class="{ editable }">
    Keep
    <s v-if="was.term" class="was">{{ was.term }}</s>
    {{ ' ' }}
    <el-popover role="dialog" aria-label="How long" :visible="open === 'term'" placement="bottom-start" :width="300" trigger="click" :disabled="!editable">
      <template #reference>
        <button class="part" :class="{ changed: was.term }" :disabled="!editable" data-part="term" @click="open = open === 'term' ? null : 'term'">{{ term(definition) }}</button>
      </template>
      <div class="editor" @keydown.esc.stop="open = null">
        <label class="label" for="period-count">How long</label>
        <div class="row">
          <input id="period-count" class="box" type="number" min="1" max="999" :disabled="definition.permanent" :value="simple?.count ?? 1" @change="setPeriod({ count: Math.max(1, +($event.target as HTMLInputElement).value), unit: simple?.unit ?? 'Y' })" />
          <select class="box" aria-label="Unit" :disabled="definition.permanent" :value="simple?.unit ?? 'Y'" @change="setPeriod({ count: simple?.count ?? 1, unit: ($event.target as HTMLSelectElement).value as SimplePeriod['unit'] })">
            <option v-for="u in units" :key="u.value" :value="u.value">{{ u.label }}</option>
          </select>
        </div>
        <label class="label" for="period-iso">or as ISO 8601, such as P1Y6M</label>
        <div class="row">
          <input id="period-iso" v-model="typedPeriod" class="box" :placeholder="definition.period ?? ''" :disabled="definition.permanent" @keydown.enter="emit('change', { period: typedPeriod.trim() })" />
          <el-button size="small" :disabled="!typedPeriod || definition.permanent" @click="emit('change', { period: typedPeriod.trim() })">Use</el-button>
        </div>
        <label class="check"><input type="checkbox" :checked="definition.permanent" @change="emit('change', ($event.target as HTMLInputElement).checked ? { permanent: true } : { permanent: false, period: definition.period ?? 'P7Y' })" /> permanently</label>
        <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
      </div>
    </el-popover>
    <template v-if="!definition.permanent">
      after the {{ definition.cutoff === 'none' ? '' : 'end of the ' }}
      <s v-if="was.cutoff" class="was">{{ was.cutoff }}</s>
      {{ ' ' }}
      <el-popover role="dialog" aria-label="Cutoff" :visible="open === 'cutoff'" placement="bottom-start" :width="220" trigger="click">
        <template #reference>
          <button class="part" :class="{ changed: was.cutoff }" :disabled="!editable" data-part="cutoff" @click="open = open === 'cutoff' ? null : 'cutoff'">{{ cutoffWords[definition.cutoff] }}</button>
        </template>
        <div class="menu" role="listbox" aria-label="Cutoff" @keydown.esc.stop="open = null">
          <button v-for="c in cutoffs" :key="c" role="option" :aria-selected="c === definition.cutoff" @click="(emit('change', { cutoff: c }), (open = null))">{{ cutoffWords[c] }}</button>
        </div>
      </el-popover>
      {{ definition.cutoff === 'none' ? 'on which' : 'in which' }}
      <s v-if="was.trigger" class="was">{{ was.trigger }}</s>
      {{ ' ' }}
      <el-popover role="dialog" aria-label="Where the clock starts" :visible="open === 'trigger'" placement="bottom-start" :width="280" trigger="click">
        <template #reference>
          <button class="part" :class="{ changed: was.trigger }" :disabled="!editable" data-part="trigger" @click="open = open === 'trigger' ? null : 'trigger'">{{ triggerWords(definition.trigger) }}</button>
        </template>
        <div class="menu" role="listbox" aria-label="Where the clock starts" @keydown.esc.stop="open = null">
          <button v-for="t in triggers" :key="t" role="option" :aria-selected="t === definition.trigger" @click="(emit('change', { trigger: t }), (open = null))">{{ triggerWords(t) }}</button>
        </div>
        <div class="editor">
          <label class="label" for="field-name">or another date field</label>
          <div class="row">
            <input id="field-name" v-model="typedField" class="box" placeholder="contract-ended" @keydown.enter="setField" />
            <el-button size="small" :disabled="!typedField.trim()" @click="setField">Use</el-button>
          </div>
        </div>
      </el-popover>; then
      <s v-if="was.end" class="was">{{ was.end }}</s>
      {{ ' ' }}
      <el-popover role="dialog" aria-label="What happens at the end" :visible="open === 'end'" placement="bottom-start" :width="320" trigger="click">
        <template #reference>
          <button class="part" :class="{ changed: was.end }" :disabled="!editable" data-part="end" @click="open = open === 'end' ? null : 'end'">{{ end(definition) }}</button>
        </template>
        <div class="editor" @keydown.esc.stop="open = null">
          <label class="check"><input type="radio" name="at-end" :checked="definition.atEnd === 'signOff'" @change="setEnd('signOff')" /> it is destroyed after sign-off</label>
          <label class="check"><input type="radio" name="at-end" :checked="definition.atEnd === 'nothing'" @change="setEnd('nothing')" /> nothing happens; it is free</label>
          <template v-if="definition.atEnd === 'signOff'">
            <span class="label">Who signs, in this order</span>
            <div v-for="(stage, i) in definition.stages" :key="i" class="row">
              <select class="box" :aria-label="`Stage ${i + 1}`" :value="stage.role" @change="setStage(i, ($event.target as HTMLSelectElement).value as Role)">
                <option v-for="r in stageRoles" :key="r" :value="r">{{ i + 1 }}. a {{ roleWords[r] }}</option>
              </select>
              <el-button size="small" :disabled="definition.stages.length <= 2" :aria-label="`Remove stage ${i + 1}`" @click="emit('change', { stages: definition.stages.filter((_, at) => at !== i) })">Remove</el-button>
            </div>
            <div class="row"><el-button size="small" :disabled="definition.stages.length >= 6" @click="emit('change', { stages: [...definition.stages, { role: 'recordsManager' }] })">Add a stage</el-button></div>
          </template>
          <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
        </div>
      </el-popover>
      {{ definition.atEnd === 'signOff' ? ' and it is destroyed' : '' }}</template>.
  </p>
</template>

<style scoped>
.sentence { font: 400 19px/1.65 var(--serif); margin: 0; padding-left: 18px; border-left: 3px solid var(--line-2); text-wrap: pretty }
.sentence.editable { border-left-color: var(--copper) }
.part { font: 600 19px/1.3 var(--serif); color: var(--ink); background: none; border: 0; border-bottom: 1.5px solid var(--ink-3); padding: 0 1px; cursor: pointer; text-align: left }
.part:disabled { cursor: default; border-bottom-color: transparent; color: var(--ink) }
.part.changed { color: var(--copper); background: var(--copper-wash); border-bottom-color: var(--copper) }
.was { color: var(--ink-3) }
.editor { display: grid; gap: 8px }
.row { display: flex; gap: 8px; align-items: center }
.box { font: inherit; color: var(--ink); background: var(--sheet); border: 1px solid var(--line-2); border-radius: var(--radius); height: 30px; padding: 0 8px; min-width: 0; flex: 1 }
.check { display: flex; gap: 8px; align-items: center; color: var(--ink) }
.end { text-align: right }
.menu { display: grid; margin: -6px -6px 6px }
.menu button { text-align: left; background: none; border: 0; padding: 6px 8px; color: var(--ink); cursor: pointer; border-radius: var(--radius) }
.menu button:hover, .menu button:focus-visible { background: var(--sheet-2) }
.menu button[aria-selected='true'] { font-weight: 600; background: var(--sea-wash) }
</style>
