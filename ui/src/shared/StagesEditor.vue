<script setup lang="ts">
import type { Schemas } from './api/client'
import { roleWords, stageOf, type Role } from './words'

type Stage = Schemas['SeriesDefinition']['stages'][number]
/** Who signs before something is destroyed or handed over, in their order. */
const { stages, colleagues } = defineProps<{
  stages: readonly Stage[]
  /** Who can be named for a stage. */
  colleagues: readonly Schemas['Colleague'][]
}>()
const emit = defineEmits<{ change: [Stage[]] }>()
const stageRoles: Role[] = ['steward', 'recordsManager']
const setStage = (index: number, part: Partial<Stage>) =>
  emit(
    'change',
    stages.map((s, i) => (i === index ? { ...s, ...part } : s)),
  )
const ableTo = (role: Role) => colleagues.filter((c) => c.signs.includes(role))
</script>

<template>
  <span class="label">Who signs, in this order</span>
  <div v-for="(stage, i) in stages" :key="i" class="row stage">
    <select
      class="box"
      :aria-label="`Stage ${i + 1}`"
      :value="stage.role"
      @change="setStage(i, { role: ($event.target as HTMLSelectElement).value as Role, person: '', deputy: '' })"
    >
      <option v-for="r in stageRoles" :key="r" :value="r">{{ i + 1 }}. a {{ roleWords[r] }}</option>
    </select>
    <el-button
      size="small"
      :disabled="stages.length <= 2"
      :aria-label="`Remove stage ${i + 1}`"
      @click="
        emit(
          'change',
          stages.filter((_, at) => at !== i),
        )
      "
      >Remove</el-button
    >
    <span class="who">
      <select
        class="box"
        :aria-label="`Who signs stage ${i + 1}`"
        :value="stage.person"
        @change="setStage(i, { person: ($event.target as HTMLSelectElement).value, deputy: '' })"
      >
        <option value="">anybody with the role</option>
        <option v-for="c in ableTo(stage.role)" :key="c.id" :value="c.mail">{{ c.name }}</option>
        <option v-if="stage.person && !ableTo(stage.role).some((c) => c.mail === stage.person)" :value="stage.person">
          {{ stage.person }}
        </option>
      </select>
      <select
        v-if="stage.person"
        class="box"
        :aria-label="`Deputy for stage ${i + 1}`"
        :value="stage.deputy"
        @change="setStage(i, { deputy: ($event.target as HTMLSelectElement).value })"
      >
        <option value="">no deputy</option>
        <option v-for="c in ableTo(stage.role).filter((c) => c.mail !== stage.person)" :key="c.id" :value="c.mail">
          deputy {{ c.name }}
        </option>
        <option v-if="stage.deputy && !ableTo(stage.role).some((c) => c.mail === stage.deputy)" :value="stage.deputy">
          deputy {{ stage.deputy }}
        </option>
      </select>
      <label class="small"
        >within
        <input
          class="box days"
          type="number"
          min="1"
          max="365"
          :aria-label="`Days for stage ${i + 1}`"
          :value="stage.days"
          @change="setStage(i, { days: +($event.target as HTMLInputElement).value })"
        />
        days</label
      >
    </span>
  </div>
  <div class="row">
    <el-button
      size="small"
      :disabled="stages.length >= 6"
      @click="emit('change', [...stages, stageOf('recordsManager')])"
      >Add a stage</el-button
    >
  </div>
</template>

<style scoped>
.stage {
  flex-wrap: wrap;
}
.who {
  flex-basis: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin-bottom: 4px;
}
.days {
  width: 62px;
}
</style>
