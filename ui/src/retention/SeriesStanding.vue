<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { gradeWords } from '@/shared/words'

/** How strongly a series protects, who answers for it, and what it rests on. */
defineProps<{
  definition: Schemas['SeriesDefinition']
  findings: readonly Schemas['AuthorityFinding'][]
  /** Its texts stand open. */
  details: boolean
  editable: boolean
}>()
const emit = defineEmits<{ toggle: [] }>()
</script>

<template>
  <p class="settings">
    <span
      >Protection <strong>{{ gradeWords[definition.grade] }}</strong><template v-if="definition.ratchet">
        under a <strong>ratchet</strong></template
      ></span
    >
    <span
      >Grace <strong>{{ plural(definition.graceDays, 'day') }}</strong></span
    >
    <span
      >Owner <strong :class="{ lacking: !definition.owner }">{{ definition.owner || 'nobody' }}</strong></span
    >
    <button class="link" :aria-expanded="details" @click="emit('toggle')">
      {{ editable ? 'Title, texts, protection, authorities' : 'Texts' }}
    </button>
  </p>
  <ul class="rests" aria-label="Rests on">
    <li v-if="definition.authorities.length === 0" class="quiet">It rests on no authority.</li>
    <li v-for="code in definition.authorities" :key="code">
      <RouterLink :to="`/schedule/authorities?authority=${encodeURIComponent(code)}`">{{ code }}</RouterLink>
      <span
        v-for="f in findings.filter((f) => f.authority === code)"
        :key="f.sentence"
        :class="f.verdict === 'meets' ? 'quiet' : 'lacking'"
        >{{ f.sentence }}</span
      >
    </li>
  </ul>
</template>

<style scoped>
.settings {
  margin: 0;
  display: flex;
  gap: 5px;
  flex-wrap: wrap;
  align-items: baseline;
}
.settings button {
  margin-left: auto;
}
.settings {
  gap: 4px 16px;
}
.lacking {
  color: var(--copper);
}
.rests {
  list-style: none;
  margin: -6px 0 0;
  padding: 0;
  display: grid;
  gap: 2px;
  font-size: 13.5px;
}
.rests li {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
}
</style>
