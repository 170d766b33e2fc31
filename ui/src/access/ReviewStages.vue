<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import SentencePart from '@/shared/SentencePart.vue'
import { reviewerWords } from './words'

/** Who is asked after the first: each stage asks anew about every line, and the last that says something decides. */
type Stage = Schemas['ReviewStage']
const { stages, editable = false } = defineProps<{ stages: readonly Stage[]; editable?: boolean }>()
const open = defineModel<string | null>('open', { required: true })
const emit = defineEmits<{ change: [Stage[]] }>()
const MOST = 4
const put = (at: number, part: Partial<Stage>) =>
  emit(
    'change',
    stages.map((s, i) => (i === at ? { ...s, ...part } : s)),
  )
const add = () => emit('change', [...stages, { reviewer: 'manager', named: [], days: 7, seesFormer: true }])
const take = (at: number) =>
  emit(
    'change',
    stages.filter((_, i) => i !== at),
  )
const words = () =>
  stages.length === 0
    ? 'nobody else'
    : stages
        .map(
          (s) =>
            `${s.reviewer === 'named' && s.named.length ? s.named.join(', ') : reviewerWords[s.reviewer]} for ${plural(s.days, 'day')}`,
        )
        .join(', then ')
</script>

<template>
  <SentencePart
    v-model:open="open"
    name="stages"
    label="Who is asked afterwards"
    :words="words()"
    :editable="editable"
    :width="460"
  >
    <div class="editor">
      <fieldset v-for="(s, i) in stages" :key="i">
        <legend class="label">Stage {{ i + 2 }}</legend>
        <select
          class="box"
          :value="s.reviewer"
          :aria-label="`Who is asked in stage ${i + 2}`"
          @change="put(i, { reviewer: ($event.target as HTMLSelectElement).value as Stage['reviewer'] })"
        >
          <option v-for="(w, r) in reviewerWords" :key="r" :value="r">{{ w }}</option>
        </select>
        <input
          class="box days"
          type="number"
          min="1"
          max="365"
          :value="s.days"
          :aria-label="`Days of stage ${i + 2}`"
          @change="put(i, { days: Number(($event.target as HTMLInputElement).value) })"
        />
        days
        <button type="button" class="link" @click="take(i)">Leave it out</button>
        <input
          v-if="s.reviewer === 'named'"
          class="box wide"
          :value="s.named.join(' ')"
          :aria-label="`Mail addresses of stage ${i + 2}`"
          placeholder="mail addresses"
          @change="put(i, { named: ($event.target as HTMLInputElement).value.split(/[\s,;]+/).filter(Boolean) })"
        />
        <label class="check"
          ><input
            type="checkbox"
            :checked="s.seesFormer"
            @change="put(i, { seesFormer: ($event.target as HTMLInputElement).checked })"
          />
          sees what was answered before</label
        >
      </fieldset>
      <button v-if="stages.length < MOST" type="button" class="link" @click="add">Ask somebody else afterwards</button>
    </div>
  </SentencePart>
</template>

<style scoped>
fieldset {
  border: 0;
  border-bottom: 1px solid var(--line);
  padding: 0 0 8px;
  margin: 0 0 8px;
}
.days {
  width: 70px;
}
.wide {
  width: 100%;
  margin-top: 6px;
}
.check {
  display: block;
  margin-top: 4px;
}
</style>
