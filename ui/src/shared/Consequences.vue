<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Schemas } from '@/shared/api/client'
import { figuresOf, monthsOf } from './consequences'
import { bytes, count, plural } from './format'
import GroupList from './GroupList.vue'

const Histogram = defineAsyncComponent(() => import('./Histogram.vue'))

const props = defineProps<{
  view: Schemas['ConsequencesView'] | undefined
  loading?: boolean
  problem?: string | null
  /** What would do it: draft, filing, blanket, event … */
  of: string
  /** Reads the items behind a figure; without it the figures are only told. */
  load?: (group: string) => Promise<Schemas['ItemPage']>
}>()
const open = ref<{ group: string; title: string } | null>(null)

const openHeld = (holder: string, items: number, why: string) =>
  props.load && (open.value = { group: `heldBack-${holder}`, title: `${plural(items, 'item')} kept back ${why}` })

const table = ref(false)
const figures = computed(() => (props.view ? figuresOf(props.view.figures) : []))
const months = computed(() => monthsOf(props.view?.figures.byMonth ?? []))
const containers = computed(() => {
  const names = new Map(props.view?.containers.map((c) => [c.id, c.name]))
  return (props.view?.figures.byContainer ?? []).map((c) => ({ ...c, name: names.get(c.containerId) ?? '' }))
})
</script>

<template>
  <section class="consequences panel" aria-label="Consequences" :aria-busy="loading">
    <header>
      <h2>Consequences</h2>
      <span v-if="view" class="small quiet"
        >of this {{ of }} for
        <button
          v-if="load && view.figures.inReach.items"
          class="link"
          data-group="all"
          @click="open = { group: 'all', title: `${plural(view.figures.inReach.items, 'item')} in reach` }"
        >
          {{ plural(view.figures.inReach.items, 'item') }}</button><template v-else>{{
          plural(view.figures.inReach.items, 'item')
        }}</template
        >, {{ bytes(view.figures.inReach.bytes) }}{{ loading ? ', computing …' : '' }}</span
      >
      <span v-else-if="loading" class="small quiet">computing …</span>
    </header>
    <p v-if="problem" class="problem pad" role="alert">{{ problem }}</p>
    <template v-else-if="view">
      <div class="figures">
        <div v-for="f in figures" :key="f.group" class="figure">
          <strong :style="{ color: `var(--${f.tally.items ? f.tone : 'ink'})` }">{{ count(f.tally.items) }}</strong>
          <button
            v-if="f.tally.items && load"
            class="link small"
            :data-group="f.group"
            @click="open = { group: f.group, title: `${plural(f.tally.items, 'item')} that ${f.label}` }"
          >
            {{ f.label }}
          </button>
          <span v-else class="small quiet">{{ f.label }}</span>
          <span class="small quiet">{{ f.tally.items ? bytes(f.tally.bytes) : ' ' }}</span>
        </div>
      </div>
      <p v-if="view.secondPerson" class="small pad second">A second person must approve: {{ view.secondPerson }}.</p>
      <p v-if="view.heldBy?.length" class="small pad held">
        Kept back:
        <template v-for="(m, i) in view.heldBy" :key="m.matterId"
          >{{ i ? ', ' : ''
          }}<component
            :is="load ? 'button' : 'span'"
            :class="{ link: load }"
            :data-group="load && `heldBack-${m.matterId}`"
            @click="openHeld(String(m.matterId), m.items, `by ${m.number}`)"
            >{{ plural(m.items, 'item') }}</component
          >
          by <RouterLink :to="`/matters/${m.matterId}`">{{ m.number }} {{ m.name }}</RouterLink></template
        ><template v-if="view.heldOtherwise"
          >,
          <component
            :is="load ? 'button' : 'span'"
            :class="{ link: load }"
            :data-group="load && 'heldBack-otherwise'"
            @click="openHeld('otherwise', view.heldOtherwise, 'for another reason')"
            >{{ plural(view.heldOtherwise, 'item') }}</component
          >
          for another reason</template
        >.
      </p>
      <div v-if="months.length" class="chart">
        <Histogram
          v-if="!table"
          :labels="months.map((m) => m.label)"
          :before="months.map((m) => m.before)"
          :after="months.map((m) => m.after)"
          :names="['falls due now', 'under this ' + of]"
        />
        <table v-else class="twin">
          <thead>
            <tr>
              <th>Falls due</th>
              <th class="num">now</th>
              <th class="num">under this {{ of }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in months.filter((m) => m.before || m.after)" :key="m.label">
              <td>{{ m.label }}</td>
              <td class="num">{{ count(m.before) }}</td>
              <td class="num">{{ count(m.after) }}</td>
            </tr>
          </tbody>
        </table>
        <div class="legend small quiet">
          <span><i class="before" />falls due as it is now</span><span><i class="after" />under this {{ of }}</span>
          <button class="link" @click="table = !table">{{ table ? 'as a chart' : 'as a table' }}</button>
        </div>
      </div>
      <details v-if="containers.length" class="containers small">
        <summary>By container ({{ containers.length }})</summary>
        <table class="twin">
          <thead>
            <tr>
              <th>Container</th>
              <th class="num">items</th>
              <th class="num">changed</th>
              <th class="num">become due</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in containers" :key="c.containerId">
              <td>
                <RouterLink :to="`/content?container=${c.containerId}`">{{ c.name }}</RouterLink>
              </td>
              <td class="num">{{ count(c.items) }}</td>
              <td class="num">{{ count(c.changed) }}</td>
              <td class="num">{{ count(c.becomeDue) }}</td>
            </tr>
          </tbody>
        </table>
      </details>
      <p v-if="view.untouchable" class="small quiet pad">
        {{ plural(view.untouchable, 'item') }} on the docket or destroyed
        {{ view.untouchable === 1 ? 'is' : 'are' }} left alone.
      </p>
    </template>
    <GroupList
      v-if="open && load"
      :id="[of, open.group, view?.fingerprint]"
      :key="open.group"
      :title="open.title"
      :load="() => load!(open!.group)"
      @close="open = null"
    />
  </section>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding: 10px 14px;
  border-bottom: 1px solid var(--line);
}
h2 {
  font-size: 15.5px;
}
.second {
  font-weight: 600;
}
.pad {
  padding: 8px 14px;
  margin: 0;
}
.figures {
  display: grid;
  overflow: hidden;
  grid-template-columns: repeat(auto-fit, minmax(112px, 1fr));
}
.figure {
  padding: 10px 14px;
  margin-right: -1px;
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  display: grid;
  justify-items: start;
  align-content: start;
  gap: 2px;
}
.figure .link {
  text-align: left;
}
.figure strong {
  font: 600 22px/1.1 var(--serif);
}
.held {
  border-bottom: 1px solid var(--line);
}
.chart {
  padding: 6px 14px 8px;
}
.legend {
  display: flex;
  gap: 16px;
  align-items: center;
}
.legend button {
  margin-left: auto;
}
i {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin-right: 6px;
}
i.before {
  background: var(--line-2);
}
i.after {
  background: var(--copper);
}
.twin {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
  margin-bottom: 6px;
}
.twin th,
.twin td {
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
}
.twin .num {
  text-align: right;
}
.containers {
  padding: 0 14px 10px;
}
.containers summary {
  cursor: pointer;
  color: var(--ink-2);
  padding: 4px 0;
}
</style>
