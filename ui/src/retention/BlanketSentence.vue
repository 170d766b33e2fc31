<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import PeriodEditor from '@/shared/PeriodEditor.vue'
import SentencePart from '@/shared/SentencePart.vue'
import { periodWords } from '@/shared/words'

type Definition = Schemas['BlanketDefinition']
const {
  definition,
  inForce = null,
  editable = false,
  covered = [],
} = defineProps<{
  definition: Definition
  inForce?: Definition | null
  editable?: boolean
  covered?: readonly Schemas['ContainerName'][]
}>()
const emit = defineEmits<{ change: [Partial<Definition>] }>()
const open = ref<string | null>(null)
const sources = useQuery({ queryKey: ['containers'], queryFn: () => take(api.GET('/api/containers')) })
const typed = ref(definition.reach.query ?? '')

const reachWords = (d: Definition) =>
  (d.reach.query ? `every container that fits ${d.reach.query}` : plural(d.reach.containers.length, 'container')) +
  (d.reach.except.length ? ` but ${d.reach.except.length}` : '')
const term = (d: Definition) => periodWords(d.keep ?? d.destroyAfter)
const kind = (d: Definition) => (d.keep ? 'Keep' : 'Destroy')
const from = (d: Definition) => (d.from === 'created' ? 'created' : 'last modified')
const end = (d: Definition) => (d.destroys ? 'it is destroyed without sign-off' : 'nothing happens')
const was = (words: (d: Definition) => string) =>
  inForce && words(inForce) !== words(definition) ? words(inForce) : null
const period = computed({
  get: () => (definition.keep ?? definition.destroyAfter)!,
  set: (p) => emit('change', definition.keep ? { keep: p } : { destroyAfter: p }),
})

function setKind(keeps: boolean) {
  emit(
    'change',
    keeps
      ? { keep: period.value, destroyAfter: null, destroys: false }
      : { keep: null, destroyAfter: period.value, destroys: true },
  )
  open.value = null
}
const setReach = (part: Partial<Schemas['ReachDefinition']>) =>
  emit('change', { reach: { ...definition.reach, ...part } })
function stand() {
  setReach({ query: typed.value.trim() || null, containers: typed.value.trim() ? [] : definition.reach.containers })
  open.value = null
}
</script>

<template>
  <p class="sentence" :class="{ editable }">
    <SentencePart
      v-model:open="open"
      name="kind"
      label="What it does"
      :words="kind(definition)"
      :was="was(kind)"
      :editable="editable"
      :width="300"
    >
      <div class="part-menu" role="listbox" aria-label="What it does">
        <button role="option" :aria-selected="!!definition.keep" @click="setKind(true)">Keep for a time</button>
        <button role="option" :aria-selected="!definition.keep" @click="setKind(false)">
          Keep nothing, and destroy after a time
        </button>
      </div>
    </SentencePart>
    everything in
    <SentencePart
      v-model:open="open"
      name="reach"
      label="What it covers"
      :words="reachWords(definition)"
      :was="was(reachWords)"
      :editable="editable"
      :width="420"
    >
      <div class="editor">
        <label class="label" for="reach-listed">These containers</label>
        <el-select
          id="reach-listed"
          aria-label="Containers"
          :model-value="definition.reach.containers"
          multiple
          filterable
          collapse-tags
          :max-collapse-tags="3"
          @update:model-value="setReach({ query: null, containers: $event })"
        >
          <el-option v-for="c in sources.data.value ?? []" :key="c.id" :value="c.id" :label="c.name" />
        </el-select>
        <label class="label" for="reach-query">or whatever a query finds, now and later</label>
        <div class="row">
          <input
            id="reach-query"
            v-model="typed"
            class="box"
            placeholder='container = "*scratch*"'
            @keydown.enter.prevent="stand"
          /><el-button size="small" @click="stand">Use</el-button>
        </div>
        <label class="label" for="reach-except">but never</label>
        <el-select
          id="reach-except"
          aria-label="Exceptions"
          :model-value="definition.reach.except"
          multiple
          filterable
          collapse-tags
          @update:model-value="setReach({ except: $event })"
        >
          <el-option v-for="c in sources.data.value ?? []" :key="c.id" :value="c.id" :label="c.name" />
        </el-select>
        <p v-if="covered.length" class="small quiet">Covers today: {{ covered.map((c) => c.name).join(', ') }}</p>
        <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
      </div> </SentencePart
    >{{ definition.keep ? ' for ' : ', ' }}
    <SentencePart
      v-model:open="open"
      name="term"
      label="How long"
      :words="term(definition)"
      :was="was(term)"
      :editable="editable"
    >
      <div class="editor">
        <PeriodEditor v-model="period" />
        <div class="end"><el-button size="small" type="primary" @click="open = null">Done</el-button></div>
      </div>
    </SentencePart>
    after it was
    <SentencePart
      v-model:open="open"
      name="from"
      label="From when it counts"
      :words="from(definition)"
      :was="was(from)"
      :editable="editable"
      :width="200"
    >
      <div class="part-menu" role="listbox" aria-label="From when it counts">
        <button
          v-for="f in ['created', 'modified']"
          :key="f"
          role="option"
          :aria-selected="definition.from === f"
          @click="(emit('change', { from: f }), (open = null))"
        >
          {{ f === 'created' ? 'created' : 'last modified' }}
        </button>
      </div> </SentencePart
    ><template v-if="definition.keep"
      >; then {{ ' ' }}
      <SentencePart
        v-model:open="open"
        name="end"
        label="What happens then"
        :words="end(definition)"
        :was="was(end)"
        :editable="editable"
        :width="280"
      >
        <div class="part-menu" role="listbox" aria-label="What happens then">
          <button
            role="option"
            :aria-selected="!definition.destroys"
            @click="(emit('change', { destroys: false }), (open = null))"
          >
            nothing happens
          </button>
          <button
            role="option"
            :aria-selected="definition.destroys"
            @click="(emit('change', { destroys: true }), (open = null))"
          >
            it is destroyed without sign-off
          </button>
        </div>
      </SentencePart></template
    >.
  </p>
</template>
