<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { today } from '@/shared/session'

/** Audits that are open or to come, the nearest first, with what is still to be brought. */
const { data } = useQuery({ queryKey: ['audits'], queryFn: () => take(api.GET('/api/audits')) })
const coming = computed(() =>
  (data.value ?? [])
    .filter((a) => !a.closedAt && a.settings.endsOn >= today.value)
    .sort((a, b) => a.settings.startsOn.localeCompare(b.settings.startsOn))
    .slice(0, 4),
)
const left = (iso: string) => Math.round((Date.parse(iso) - Date.parse(today.value)) / 86_400_000)
</script>

<template>
  <section class="panel block" aria-label="Coming audits">
    <h2>Coming audits</h2>
    <p v-if="data && coming.length === 0" class="quiet small">None is planned.</p>
    <p v-for="a in coming" :key="a.id" class="small">
      <RouterLink :to="`/readiness/audits?audit=${a.id}`"
        ><strong>{{ a.settings.name }}</strong></RouterLink
      ><br />
      {{
        left(a.settings.startsOn) > 0
          ? `opens in ${plural(left(a.settings.startsOn), 'day')}, on ${day(a.settings.startsOn)}`
          : `open until ${day(a.settings.endsOn)}`
      }}; {{ a.requests.filter((r) => r.state === 'open' || r.state === 'returned').length }} of
      {{ plural(a.requests.length, 'request') }} still to be brought<template
        v-if="a.requests.some((r) => r.state === 'returned')"
        >,
        <span class="lacking">▲ {{ a.requests.filter((r) => r.state === 'returned').length }} returned</span></template
      >.
    </p>
  </section>
</template>

<style scoped>
h2 {
  font-size: 16px;
}
</style>
