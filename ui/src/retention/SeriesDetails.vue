<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'

type Definition = Schemas['SeriesDefinition']

/**
 * What the sentence does not say: title and texts, what tells the series apart, how strongly it protects, what it rests
 * on.
 */
const { definition, editable, authorities } = defineProps<{
  definition: Definition
  editable: boolean
  authorities: readonly string[]
}>()
const emit = defineEmits<{ change: [Partial<Definition>] }>()
const describe = (part: Partial<Schemas['Descriptors']>) =>
  emit('change', { descriptors: { ...definition.descriptors, ...part } })
const texts = [
  { key: 'function', label: 'Function' },
  { key: 'activity', label: 'Activity' },
  { key: 'subActivity', label: 'Sub-activity' },
  { key: 'department', label: 'Department' },
] as const
const grades = [
  { value: 'kept', label: 'Kept: what users change or delete is copied to safekeeping first' },
  { value: 'declared', label: 'Declared: content stays as it is; taken off only with a second person' },
  { value: 'worm', label: 'WORM: nothing changes before the term is over, for anyone' },
] as const
</script>

<template>
  <div class="details panel">
    <label class="label" for="s-title">Title</label
    ><el-input
      id="s-title"
      :model-value="definition.title"
      :disabled="!editable"
      @update:model-value="emit('change', { title: $event })"
    />
    <div class="pairs">
      <div v-for="t in texts" :key="t.key">
        <label class="label" :for="`s-${t.key}`">{{ t.label }}</label><el-input
          :id="`s-${t.key}`"
          :model-value="definition.descriptors[t.key]"
          :disabled="!editable"
          @update:model-value="describe({ [t.key]: $event })"
        />
      </div>
      <div>
        <label class="label" for="s-tags">Own tags</label
        ><el-select
          id="s-tags"
          aria-label="Own tags"
          :model-value="definition.descriptors.tags"
          multiple
          filterable
          allow-create
          default-first-option
          :disabled="!editable"
          @update:model-value="describe({ tags: $event })"
        />
      </div>
      <div>
        <label class="label" for="s-owner">Owner: who answers for it</label
        ><el-input
          id="s-owner"
          :model-value="definition.owner"
          :disabled="!editable"
          @update:model-value="emit('change', { owner: $event })"
        />
      </div>
    </div>
    <label class="label" for="s-authorities">Authorities that it rests on</label>
    <el-select
      id="s-authorities"
      aria-label="Authorities"
      :model-value="definition.authorities"
      multiple
      filterable
      :disabled="!editable"
      placeholder="None"
      @update:model-value="emit('change', { authorities: $event })"
      ><el-option v-for="a in authorities" :key="a" :value="a" :label="a"
    /></el-select>
    <label class="label" for="s-description">Description</label
    ><el-input
      id="s-description"
      type="textarea"
      :rows="2"
      :model-value="definition.description"
      :disabled="!editable"
      @update:model-value="emit('change', { description: $event })"
    />
    <label class="label" for="s-guidance">Guidance for staff, shown where they file</label
    ><el-input
      id="s-guidance"
      type="textarea"
      :rows="2"
      :model-value="definition.guidance"
      :disabled="!editable"
      @update:model-value="emit('change', { guidance: $event })"
    />
    <fieldset :disabled="!editable">
      <legend class="label">Protection</legend>
      <label v-for="g in grades" :key="g.value" class="check"
        ><input
          type="radio"
          name="grade"
          :value="g.value"
          :checked="definition.grade === g.value"
          @change="emit('change', { grade: g.value })"
        />
        {{ g.label }}</label
      >
      <label class="check"
        ><input
          type="checkbox"
          :checked="definition.ratchet"
          @change="emit('change', { ratchet: ($event.target as HTMLInputElement).checked })"
        />
        Under a ratchet: it can be tightened, never loosened; for good once in force</label
      >
    </fieldset>
    <label class="label" for="s-grace">Grace, in days</label
    ><input
      id="s-grace"
      class="box"
      type="number"
      min="0"
      max="3650"
      :value="definition.graceDays"
      :disabled="!editable"
      @change="emit('change', { graceDays: +($event.target as HTMLInputElement).value })"
    />
  </div>
</template>

<style scoped>
.details {
  padding: 14px;
  display: grid;
  gap: 6px;
}
.pairs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 8px 14px;
}
.pairs > div {
  display: grid;
  gap: 4px;
}
fieldset {
  border: 0;
  margin: 4px 0;
  padding: 0;
  display: grid;
  gap: 4px;
  font-size: 13.5px;
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.box {
  width: 120px;
}
</style>
