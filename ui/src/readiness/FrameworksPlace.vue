<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import AdoptPanel from './AdoptPanel.vue'
import ComingAudits from './ComingAudits.vue'
import FrameworkPane from './FrameworkPane.vue'
import HistoryLine from './HistoryLine.vue'
import NextFixes from './NextFixes.vue'
import { percent } from './words'

/** How ready the organisation is, by framework: the figure, what moved it, what comes, and what to mend first. */
const { text } = useUrl()
const open = text('framework')
const { data, error } = useQuery({ queryKey: ['readiness'], queryFn: () => take(api.GET('/api/readiness')) })
const forecast = useQuery({
  queryKey: ['readiness', 'forecast'],
  queryFn: () => take(api.GET('/api/readiness/forecast', { params: { query: { days: 120 } } })),
})
const adopting = ref(false)
const drop = computed(() => {
  const last = forecast.data.value?.at(-1)
  return last && data.value?.mean ? Number(data.value.mean) - Number(last.readiness) : 0
})
/** Codes of the frameworks whose units are all shown. */
const unfolded = reactive(new Set<string>())
const causes = computed(() => (forecast.data.value ?? []).flatMap((p) => p.moved).slice(0, 6))
</script>

<template>
  <main class="page">
    <header>
      <h1>Readiness</h1>
      <span class="quiet">the mean of all frameworks</span>
      <strong class="figure">{{ percent(data?.mean) }}</strong>
      <el-button v-if="may('manageReadiness')" class="right" @click="adopting = !adopting">Adopt a framework</el-button>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <AdoptPanel v-if="adopting" @adopted="(code) => ((adopting = false), (open = code))" />
    <section v-if="data?.frameworks.length === 0" class="panel block">
      <h2>No framework is adopted yet</h2>
      <p>Adopt one, and you see at once which of its requirements your controls answer already.</p>
    </section>
    <div v-if="data?.frameworks.length" class="frameworks">
      <section v-for="f in data.frameworks" :key="f.code" class="panel block" :aria-label="f.title">
        <header>
          <h2>
            <button class="link title" @click="open = open === f.code ? '' : f.code">{{ f.title }}</button>
          </h2>
          <strong class="figure small-figure">{{ percent(f.readiness) }}</strong>
        </header>
        <p class="small">
          {{ plural(f.requirements, 'requirement')
          }}<template v-if="f.unanswered"
            >, <span class="lacking">{{ f.unanswered }} unanswered</span></template
          >; in five weeks
          <strong :class="{ lacking: Number(f.forecast) < Number(f.readiness) }">{{ percent(f.forecast) }}</strong> if
          nobody does anything.
        </p>
        <HistoryLine :points="f.history" />
        <p class="small units">
          <span v-for="u in unfolded.has(f.code) ? f.units : f.units.slice(0, 4)" :key="u.unit"
            >{{ u.unit }} {{ percent(u.readiness) }}</span
          ><button v-if="f.units.length > 4 && !unfolded.has(f.code)" class="link" @click="unfolded.add(f.code)">
            and {{ f.units.length - 4 }} more units
          </button>
        </p>
      </section>
    </div>
    <FrameworkPane v-if="open" :key="open" :code="open" @close="open = ''" />
    <div v-if="data?.frameworks.length" class="two">
      <NextFixes />
      <section class="panel block" aria-label="If nobody does anything">
        <h2>If nobody does anything</h2>
        <p class="small">In 120 days the mean falls by {{ percent(drop) }}.</p>
        <HistoryLine :points="forecast.data.value ?? []" />
        <ul class="small">
          <li v-for="c in causes" :key="c">{{ c }}</li>
        </ul>
      </section>
      <div class="stack">
        <ComingAudits />
        <section class="panel block" aria-label="Tests by area">
          <h2>Tests by area</h2>
          <table class="sheet">
            <tbody>
              <tr v-for="a in data.areas" :key="a.area">
                <td>
                  <RouterLink :to="`/readiness/controls?area=${a.area}`">{{ a.area }}</RouterLink>
                </td>
                <td class="num">{{ a.passing }} passing</td>
                <td class="num" :class="{ lacking: a.failing }">{{ a.failing }} failing</td>
              </tr>
            </tbody>
          </table>
        </section>
      </div>
    </div>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 14px;
  align-content: start;
}
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
h1 {
  font-size: 20px;
}
h2 {
  font-size: 16px;
}
p,
ul {
  margin: 0;
}
ul {
  padding-left: 18px;
}
.stack {
  display: grid;
  gap: 14px;
  align-content: start;
}
.figure {
  font: 600 26px/1 var(--serif);
}
.frameworks section,
.two section {
  align-content: start;
}
.num,
.figure {
  white-space: nowrap;
}
.small-figure {
  font-size: 22px;
  margin-left: auto;
}
.right {
  margin-left: auto;
}
.title {
  font: inherit;
  text-align: left;
}
.frameworks,
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(380px, 1fr));
  gap: 14px;
}
.units {
  display: flex;
  gap: 12px;
  flex-wrap: wrap;
  color: var(--ink-2);
}
.do {
  text-align: right;
}
</style>
