<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import AuditFinding from './AuditFinding.vue'
import FindingWords from './FindingWords.vue'

/** The findings of an audit. */
const { audit, mayFind } = defineProps<{ audit: Schemas['AuditView']; mayFind: boolean }>()
</script>

<template>
  <AuditFinding v-for="f in audit.findings" :key="f.id" :audit="audit" :finding="f" />
  <p v-if="!audit.findings.length" class="quiet">No findings.</p>
  <FindingWords v-if="mayFind" :audit="audit.id" />
</template>
