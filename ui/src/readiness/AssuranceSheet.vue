<script setup lang="ts">
import type { Schemas } from '@/shared/api/client'
import { day } from '@/shared/format'
import AskForm from './AskForm.vue'

/** The public's page itself. */
const { page, asking = false } = defineProps<{ page: Schemas['AssurancePage']; asking?: boolean }>()
</script>

<template>
  <div class="assurance">
    <h1>{{ page.organisation }}</h1>
    <p class="small quiet">As of {{ day(page.asOf) }}, computed from tests and evidence of that day.</p>
    <p v-if="page.words" class="words">{{ page.words }}</p>
    <template v-if="page.frameworks.length">
      <h2>Frameworks</h2>
      <table class="sheet">
        <tbody>
          <tr v-for="f in page.frameworks" :key="f.title">
            <td>
              {{ f.title }} <span class="small quiet">{{ f.version }}</span>
            </td>
            <td>{{ f.state }}</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template v-if="page.areas.length">
      <h2>Controls</h2>
      <table class="sheet">
        <tbody>
          <tr v-for="a in page.areas" :key="a.area">
            <td>{{ a.area }}</td>
            <td>{{ a.passing }} of {{ a.of }} ready</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template v-if="page.policies.length">
      <h2>Policies</h2>
      <ul>
        <li v-for="p in page.policies" :key="p.title">
          {{ p.title }} <span class="small quiet">{{ p.version }}</span>
        </li>
      </ul>
    </template>
    <template v-if="page.documents.length">
      <h2>Documents</h2>
      <ul class="documents">
        <li v-for="d in page.documents" :key="d.id">
          <strong>{{ d.title }}</strong>
          <div v-if="d.says" class="small quiet">{{ d.says }}</div>
          <AskForm v-if="asking" :document="d" />
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.assurance {
  display: grid;
  gap: 10px;
}
h1 {
  font-size: 24px;
}
h2 {
  font-size: 16px;
}
p {
  margin: 0;
}
.words {
  font: 400 17px/1.55 var(--serif);
}
</style>
