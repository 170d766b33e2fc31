<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { may, today } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import AuditForm from './AuditForm.vue'
import AuditRoom from './AuditRoom.vue'
import AuditTimeline from './AuditTimeline.vue'

const { number } = useUrl()
const open = number('audit')
const { data, error } = useQuery({ queryKey: ['audits'], queryFn: () => take(api.GET('/api/audits')) })
const shown = computed(() => data.value?.find((a) => a.id === open.value))
const making = ref(false)
const left = (iso: string) => Math.round((Date.parse(iso) - Date.parse(today.value)) / 86_400_000)
</script>

<template>
  <Workbench name="audits" :subject="!!shown" :list-width="380">
    <template #list>
      <div class="page">
        <header>
          <h1>Audits</h1>
          <el-button v-if="may('manageReadiness')" size="small" type="primary" class="right" @click="making = !making"
            >Plan an audit</el-button
          >
        </header>
        <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
        <AuditForm v-if="making" @kept="making = false" @left="making = false" />
        <p v-if="data?.length === 0 && !making" class="quiet">No audit is planned.</p>
        <AuditTimeline v-if="!shown && data?.length" :audits="data" @choose="open = $event" />
        <button
          v-for="a in data ?? []"
          :key="a.id"
          class="panel listed"
          :aria-current="a.id === open"
          @click="open = a.id"
        >
          <strong>{{ a.settings.name }}</strong>
          <span class="small quiet">{{ a.frameworkTitle }}</span>
          <span class="small"
            >{{ day(a.settings.startsOn) }} to {{ day(a.settings.endsOn) }}
            <template v-if="a.closedAt">· closed</template
            ><template v-else-if="left(a.settings.startsOn) > 0"
              >· <span class="lacking">in {{ left(a.settings.startsOn) }} days</span></template
            ><template v-else>· running</template>
          </span>
          <span class="small"
            >{{ a.requests.filter((r) => r.state === 'accepted').length }} of {{ a.requests.length }} requests
            accepted<template v-if="a.findings.length">, {{ plural(a.findings.length, 'finding') }}</template></span
          >
        </button>
      </div>
    </template>
    <template #subject><AuditRoom v-if="shown" :key="shown.id" :audit="shown" /></template>
  </Workbench>
</template>

<style scoped>
.page {
  padding: 14px 16px;
  display: grid;
  gap: 10px;
}
header {
  display: flex;
  align-items: baseline;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
</style>
