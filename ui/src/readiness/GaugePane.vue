<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take } from '@/shared/api/client'
import { day } from '@/shared/format'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import GaugeForm from './GaugeForm.vue'

/** A gauge opened: who or what is missing, by unit, and what is passed over and why. */
const { id } = defineProps<{ id: number }>()
const emit = defineEmits<{ close: [] }>()
const path = { params: { path: { id } } }
const { data, error } = useQuery({
  queryKey: ['gauges', id],
  queryFn: () => take(api.GET('/api/gauges/{id}', path)),
})
const { act, busy, problem } = useAct(['readiness'])
const changing = ref(false)
const excluding = ref<string | null>(null)
const reason = ref('')
const ends = ref('')
async function exclude() {
  if (
    await act(() =>
      take(
        api.POST('/api/gauges/{id}/exclusions', {
          ...path,
          body: { subject: excluding.value!, reason: reason.value, endsOn: ends.value || null },
        }),
      ),
    )
  )
    excluding.value = null
}
const include = (exclusion: number) =>
  act(() => take(api.DELETE('/api/gauges/{id}/exclusions/{exclusion}', { params: { path: { id, exclusion } } })))
const remove = async () => {
  if (await act(() => take(api.DELETE('/api/gauges/{id}', path)))) emit('close')
}
const lacking = computed(() => (data.value?.subjects ?? []).filter((s) => !s.right))
const right = computed(() => (data.value?.subjects ?? []).filter((s) => s.right))
const all = ref(false)
const shown = ref(60)
const shownRight = ref(200)
</script>

<template>
  <section v-if="data" class="panel block" :aria-label="data.gauge.settings.name">
    <header>
      <h2>{{ data.gauge.settings.name }}</h2>
      <span class="quiet small">{{ data.gauge.says }}</span>
      <span class="right"
        ><template v-if="may('manageReadiness')"
          ><button class="link" @click="changing = !changing">Change</button>
          <button class="link" :disabled="busy" @click="remove">Remove the gauge</button></template
        >
        <button class="link" @click="emit('close')">Fold</button></span
      >
    </header>
    <GaugeForm v-if="changing" :key="data.gauge.revision" :gauge="data.gauge" @close="changing = false" />
    <p v-if="problem ?? error" class="problem" role="alert">{{ (problem ?? error)!.message }}</p>
    <p>
      {{ data.gauge.right }} ÷ {{ data.gauge.of }} = <strong>{{ data.gauge.percent ?? '–' }} %</strong>; the target is
      {{ data.gauge.settings.target }} %.
    </p>
    <p v-if="data.units.length" class="units small quiet">
      <span v-for="u in data.units" :key="u.unit">{{ u.unit }} {{ Math.round((u.right / u.of) * 100) }} %</span>
    </p>
    <table v-if="lacking.length" class="sheet">
      <thead>
        <tr>
          <th>Missing: {{ lacking.length }}</th>
          <th>Why</th>
          <th><span class="sr">Act</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="s in lacking.slice(0, shown)" :key="s.id">
          <tr>
            <td>
              <RouterLink v-if="s.link" :to="s.link">{{ s.name }}</RouterLink><template v-else>{{ s.name }}</template>
              {{ ' ' }}<span class="small quiet">{{ s.unit }}</span>
            </td>
            <td class="small">{{ s.why }}</td>
            <td class="do">
              <button
                v-if="may('manageReadiness')"
                class="link small"
                @click="((excluding = s.id), (reason = ''), (ends = ''))"
              >
                Pass over
              </button>
            </td>
          </tr>
          <tr v-if="excluding === s.id">
            <td colspan="3" class="exclude">
              <el-input
                v-model="reason"
                size="small"
                placeholder="Why, such as: an emergency account, sealed in the safe"
                aria-label="Reason"
              />
              <label class="small">until <input v-model="ends" type="date" aria-label="Last day" /></label>
              <el-button size="small" type="primary" :loading="busy" @click="exclude">Pass over {{ s.name }}</el-button>
              <button class="link" @click="excluding = null">Leave it</button>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-else class="settled">✓ Nothing is missing.</p>
    <ShowMore v-model="shown" :of="lacking.length" />
    <template v-if="data.exclusions.length">
      <h3>Passed over</h3>
      <table class="sheet">
        <tbody>
          <tr v-for="e in data.exclusions" :key="e.id" :class="{ quiet: e.over }">
            <td>{{ e.name }}</td>
            <td class="small">
              “{{ e.reason }}” {{ e.by }}<template v-if="e.endsOn">, until {{ day(e.endsOn) }}</template
              >{{ e.over ? ' (over)' : '' }}
            </td>
            <td class="do">
              <button v-if="may('manageReadiness')" class="link small" :disabled="busy" @click="include(e.id)">
                Count it again
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <p v-if="right.length" class="small">
      <button class="link" @click="all = !all">
        {{ all ? 'Fold' : 'Show' }} {{ right.length }} that are as they should be
      </button>
    </p>
    <ul v-if="all" class="small">
      <li v-for="s in right.slice(0, shownRight)" :key="s.id">{{ s.name }}: {{ s.why }}</li>
    </ul>
    <ShowMore v-if="all" v-model="shownRight" :of="right.length" />
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
h2 {
  font-size: 16px;
}
h3 {
  font-size: 14px;
  margin: 0;
}
.right {
  margin-left: auto;
  display: flex;
  gap: 14px;
  white-space: nowrap;
}
.units {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
.exclude {
  display: flex;
  gap: 8px;
  align-items: center;
}
.settled {
  color: var(--sea);
}
.do {
  text-align: right;
  white-space: nowrap;
}
</style>
