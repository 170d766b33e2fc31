<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { day } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import Workbench from '@/shared/Workbench.vue'
import AreaTabs from './AreaTabs.vue'
import PolicyForm from './PolicyForm.vue'
import PolicyPane from './PolicyPane.vue'

/** Policies: what is in force, and how many of those whom it binds know it. */
const open = useUrl().number('policy')
const { data, error } = useQuery({ queryKey: ['policies'], queryFn: () => take(api.GET('/api/policies')) })
const shown = computed(() => data.value?.find((p) => p.id === open.value))
const making = ref(false)
function made(id: number) {
  making.value = false
  open.value = id
}
</script>

<template>
  <Workbench name="policies" :subject="!!shown" :list-width="440">
    <template #list>
      <div class="page">
        <header>
          <h1>Areas</h1>
          <el-button v-if="may('manageReadiness')" size="small" type="primary" class="right" @click="making = !making"
            >Add a policy</el-button
          >
          <AreaTabs class="tabs" />
        </header>
        <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
        <PolicyForm v-if="making" @kept="made" @left="making = false" />
        <p v-if="data?.length === 0 && !making" class="quiet">
          There is no policy yet. Each has versions that another person approves, and is acknowledged by those it binds.
        </p>
        <button
          v-for="p in data ?? []"
          :key="p.id"
          class="panel listed"
          :aria-current="p.id === open"
          @click="open = p.id"
        >
          <span class="top"
            ><strong>{{ p.settings.title }}</strong>
            <span class="small quiet">{{
              p.endedOn ? `ended ${day(p.endedOn)}` : p.inForce ? `version ${p.inForce}` : 'not in force'
            }}</span></span
          >
          <span v-if="p.inForce" class="bar" aria-hidden="true"
            ><i :style="{ width: `${(100 * p.given) / Math.max(1, p.bound)}%` }"
          /></span>
          <span class="small">
            <template v-if="p.inForce"
              >{{ p.given }} of {{ p.bound }} acknowledged<template v-if="p.overdue"
                >, <span class="lacking">▲ {{ p.overdue }} overdue</span></template
              ><template v-if="p.notAsked">, {{ p.notAsked }} not asked</template></template
            >
            <span v-if="p.awaits" class="lacking"> · version {{ p.awaits }} waits for approval</span>
            <span v-if="p.reviewOverdue" class="lacking"> · ▲ review was due {{ day(p.settings.reviewOn) }}</span>
          </span>
        </button>
      </div>
    </template>
    <template #subject><PolicyPane v-if="shown" :key="shown.id" :policy="shown" /></template>
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
  flex-wrap: wrap;
  gap: 6px 0;
}
.tabs {
  flex-basis: 100%;
}
h1 {
  font-size: 20px;
}
.right {
  margin-left: auto;
}
.top {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  align-items: baseline;
}
.top .quiet {
  white-space: nowrap;
}
.bar {
  height: 4px;
  background: var(--line);
}
.bar i {
  display: block;
  height: 100%;
  background: var(--sea);
}
</style>
