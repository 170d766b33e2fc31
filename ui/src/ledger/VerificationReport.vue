<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'

/** What a verification of the ledger found. */
defineProps<{ report: Schemas['VerificationView'] }>()
</script>

<template>
  <p class="report" :class="{ bad: !report.sound }" role="status">
    <template v-if="report.sound"
      ><strong>All is well.</strong> {{ count(report.entries) }} entries match {{ count(report.heads) }} signed heads.
      Root <span class="hash">{{ report.root }}</span></template
    >
    <template v-else><strong>Something is wrong.</strong> {{ report.finding }}</template>
    <span v-for="remark in report.remarks" :key="remark" class="remark">{{ remark }}</span>
  </p>
</template>

<style scoped>
.report {
  margin: 0 16px 10px;
  padding: 8px 12px;
  background: var(--sea-wash);
  border-left: 3px solid var(--sea);
}
.remark {
  display: block;
  margin-top: 4px;
  color: var(--copper);
}
.report.bad {
  background: var(--copper-wash);
  border-color: var(--copper);
}
</style>
