<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/shared/api/client'
import { day, plural } from '@/shared/format'
import { today } from '@/shared/session'
import { parts } from '@/shared/parts'
import Spark from './Spark.vue'

const { data, error } = useQuery({ queryKey: ['today'], queryFn: () => take(api.GET('/api/today')) })
const sections = parts().flatMap((p) => p.onToday ?? [])
const duties = computed(() => data.value?.duties ?? [])
const heading = computed(() =>
  new Date(`${today.value}T12:00:00`).toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' }),
)

/** Past its day, or something that is past its day waits for it. */
const pressing = (d: Schemas['Duty']) => d.pressing || (!!d.by && d.by < today.value)
const groups = computed(() => {
  // What a section of its own settles does not stand in the list as well.
  const all = duties.value.filter((d) => !sections.some((s) => s.kind === d.kind))
  const rest = all.filter((w) => !pressing(w))
  const week = new Date(Date.parse(today.value) + 7 * 86_400_000).toISOString().slice(0, 10)
  const parts: [string, Schemas['Duty'][]][] = [
    ['Pressing', all.filter(pressing).sort((a, b) => Number(b.kind === 'sign') - Number(a.kind === 'sign'))],
    ['This week', rest.filter((w) => w.by && w.by <= week)],
    ['Later', rest.filter((w) => w.by && w.by > week)],
    ['Without a day', rest.filter((w) => !w.by)],
  ]
  return parts.filter(([, items]) => items.length > 0)
})
const waits = computed(() => duties.value.length)
/** As many lines of a group as leave the figures in sight; the rest is one press away. */
const FEW = 6
const whole = ref(new Set<string>())
const pressed = computed(() => duties.value.filter(pressing).length)
</script>

<template>
  <main class="today">
    <header>
      <h1>{{ heading }}</h1>
      <p v-if="data" class="quiet">
        {{
          waits === 0
            ? 'Nothing waits for you.'
            : `${plural(waits, 'thing')} wait${waits === 1 ? 's' : ''} for you${pressed ? `; ${pressed} of them pressing` : ''}.`
        }}
      </p>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <component :is="section.component" v-for="section in sections" :key="section.kind" />
    <section v-if="groups.length" class="panel work" aria-label="What waits for you">
      <template v-for="[title, items] in groups" :key="title">
        <h2>{{ title }} · {{ items.length }}</h2>
        <article v-for="w in whole.has(title) ? items : items.slice(0, FEW)" :key="w.key">
          <svg
            width="12"
            height="12"
            viewBox="0 0 12 12"
            aria-hidden="true"
            :style="{ color: w.pressing ? 'var(--copper)' : 'var(--ink-2)' }"
          >
            <path
              v-if="w.by"
              d="M6 1 11 6 6 11 1 6Z"
              :fill="w.kind === 'sign' ? 'currentColor' : 'none'"
              stroke="currentColor"
              stroke-width="1.500"
            />
            <circle v-else cx="6" cy="6" r="4.200" fill="none" stroke="currentColor" stroke-width="1.600" />
          </svg>
          <div class="what">
            <strong>{{ w.title }}</strong><span class="small quiet">{{ w.why }}</span>
          </div>
          <span class="small quiet" :title="w.by ?? undefined"
            >{{ w.byWords }}<template v-if="w.by"> · {{ day(w.by) }}</template></span
          >
          <RouterLink :to="w.link" class="act" :class="{ strong: w.kind === 'sign' }">{{ w.action }}</RouterLink>
        </article>
        <button v-if="items.length > FEW && !whole.has(title)" class="rest" @click="whole = new Set(whole).add(title)">
          {{ plural(items.length - FEW, 'more', 'more') }}
        </button>
      </template>
    </section>
    <section v-else-if="data && waits === 0" class="panel clear">
      <h2>All clear</h2>
      <p class="quiet">
        What falls due, waits for your signature or cannot be read will stand here, each with one button.
      </p>
    </section>
    <section v-if="data?.figures.length" class="figures panel" aria-label="Figures">
      <RouterLink v-for="f in data.figures" :key="f.name" :to="f.link" class="figure">
        <div>
          <strong>{{ f.value }}</strong><span class="under">{{ f.label }}</span
          ><span class="small quiet">{{ f.note }}</span>
        </div>
        <Spark :values="f.trend" :colour="f.colour" :label="f.label" />
      </RouterLink>
    </section>
    <p v-if="data?.figures.length" class="small quiet">
      The lines show the last twelve months, computed by the rules of today.
    </p>
  </main>
</template>

<style scoped>
.today {
  max-width: 1240px;
  margin: 0 auto;
  padding: 26px 20px 40px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 14px;
  margin-bottom: 12px;
}
h1 {
  font-size: 27px;
}
header p {
  margin: 0;
  font-size: 15px;
}
.work {
  box-shadow: var(--shadow);
}
.work h2 {
  font: 600 12.5px var(--sans);
  color: var(--ink-2);
  background: var(--sheet-2);
  padding: 6px 20px;
  border-bottom: 1px solid var(--line);
}
article {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) 270px 170px;
  align-items: center;
  gap: 14px;
  padding: 7px 20px;
  border-bottom: 1px solid var(--line);
  min-height: 50px;
}
.rest {
  display: block;
  width: 100%;
  text-align: left;
  padding: 6px 20px 6px 48px;
  background: var(--sheet);
  border: 0;
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
  font-weight: 600;
  color: var(--ink-2);
  cursor: pointer;
}
.rest:hover {
  background: var(--sheet-2);
}
.what {
  display: grid;
  line-height: 1.35;
}
.what strong {
  font-weight: 600;
}
.act {
  justify-self: end;
  padding: 5px 11px;
  border: 1px solid var(--line-2);
  border-radius: var(--radius);
  text-decoration: none;
  font-weight: 600;
  font-size: 13px;
  white-space: nowrap;
}
.act:hover {
  border-color: var(--ink-3);
  background: var(--sheet-2);
}
.act.strong {
  background: var(--copper);
  border-color: var(--copper);
  color: var(--on-copper);
}
.clear {
  padding: 28px;
}
.figures {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  margin-top: 16px;
}
.figure {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  padding: 12px 20px;
  border-right: 1px solid var(--line);
  text-decoration: none;
}
.figure:last-child {
  border-right: 0;
}
.figure:hover .under {
  border-bottom-style: solid;
}
.figure div {
  display: grid;
  justify-items: start;
}
.figure strong {
  font: 600 25px/1.15 var(--serif);
}
.under {
  border-bottom: 1px dotted var(--ink-3);
  font-size: 13.5px;
  color: var(--ink-2);
}
@media (max-width: 900px) {
  article {
    grid-template-columns: 14px 1fr;
  }
  article > .small,
  .act {
    grid-column: 2;
    justify-self: start;
  }
  .figures {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
