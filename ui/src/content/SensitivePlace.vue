<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import KindDialog from './KindDialog.vue'
import OwnKinds from './OwnKinds.vue'

type Kind = Schemas['KindView']
const { act, problem } = useAct(['kinds'])
const { data, error } = useQuery({ queryKey: ['sensitive'], queryFn: () => take(api.GET('/api/sensitive')) })
const editing = ref<Kind | 'new' | null>(null)
const found = computed(() => data.value?.kinds.filter((k) => k.items > 0).sort((a, b) => b.items - a.items) ?? [])
const own = computed(() => data.value?.kinds.filter((k) => k.id !== null) ?? [])
const unseen = computed(() => data.value?.kinds.filter((k) => k.items === 0) ?? [])
const places = computed(() => new Map(data.value?.places.map((p) => [`${p.containerId} ${p.kind}`, p])))
const most = computed(() => Math.max(1, ...(data.value?.places.map((p) => p.items) ?? [])))
const at = (container: number, kind: string) => places.value.get(`${container} ${kind}`)
const sure = (p: Schemas['KindPlace']) => p.certain + p.likely
const told = (p: Schemas['KindPlace']) =>
  `${plural(p.certain, 'certain find')}, ${count(p.likely)} likely, ${count(p.possible)} possible`
/** Darker where more items are; only what is at least likely counts for the eye. */
const wash = (p: Schemas['KindPlace']) =>
  sure(p)
    ? `color-mix(in srgb, var(--copper) ${Math.round(5 + 20 * Math.sqrt(p.items / most.value))}%, transparent)`
    : undefined
const look = () => act(() => take(api.POST('/api/sensitive/look')))
</script>

<template>
  <main class="page">
    <header>
      <RouterLink to="/content" class="small">Content</RouterLink>
      <h1>Where sensitive data lies</h1>
      <span class="right"
        ><el-button v-if="may('writeKinds')" @click="look">Look through all again</el-button
        ><el-button v-if="may('writeKinds')" type="primary" @click="editing = 'new'">Add a kind</el-button></span
      >
    </header>
    <p v-if="error || problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <section v-if="data && found.length === 0" class="panel empty">
      <h2>Nothing was found</h2>
      <p class="quiet">
        Every text is looked through when a source is scanned. It is looked for:
        {{ plural(data.kinds.length, 'kind') }} of sensitive data.
      </p>
    </section>
    <section v-else-if="data" class="panel matrix" tabindex="0" aria-label="Containers by kind">
      <table>
        <thead>
          <tr>
            <th scope="col">Container</th>
            <th v-for="k in found" :key="k.name" scope="col" class="num">
              <RouterLink :to="`/content?kind=${k.name}`" :title="`${k.name}: ${plural(k.items, 'item')}`">{{
                k.title
              }}</RouterLink>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in data.containers" :key="c.id">
            <th scope="row">
              <RouterLink :to="`/content?container=${c.id}`">{{ c.name }}</RouterLink><span class="quiet small"
                >{{ c.unit }} · {{ plural(c.items, 'item') }}</span
              >
            </th>
            <td
              v-for="k in found"
              :key="k.name"
              class="num"
              :style="{ background: at(c.id, k.name) && wash(at(c.id, k.name)!) }"
            >
              <RouterLink
                v-if="at(c.id, k.name)"
                :class="{ quiet: !sure(at(c.id, k.name)!) }"
                :to="`/content?container=${c.id}&kind=${k.name}`"
                :title="told(at(c.id, k.name)!)"
                :aria-label="`${at(c.id, k.name)!.items} items of ${c.name} with ${k.title}`"
                >{{ count(at(c.id, k.name)!.items) }}</RouterLink
              >
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <th scope="row">All containers</th>
            <td v-for="k in found" :key="k.name" class="num">
              <RouterLink :to="`/content?kind=${k.name}`"
                ><strong>{{ count(k.items) }}</strong></RouterLink
              >
            </td>
          </tr>
        </tfoot>
      </table>
    </section>
    <p v-if="data && found.length" class="small quiet">
      A figure counts items and opens them; grey ones hold only possible finds. What identifies a person or an account
      is masked wherever text is shown.
    </p>
    <template v-if="data">
      <h2>Kinds of the organisation</h2>
      <OwnKinds :kinds="own" :known="data.kinds.length" @edit="editing = $event" />
      <details class="small quiet">
        <summary>{{ plural(unseen.length, 'kind') }} looked for and not found</summary>
        <p>{{ unseen.map((k) => k.title).join(' · ') }}</p>
      </details>
    </template>
    <KindDialog v-if="editing" :kind="editing === 'new' ? null : editing" @close="editing = null" />
  </main>
</template>

<style scoped>
.page {
  max-width: 1240px;
  margin: 0 auto;
  padding: 20px 20px 40px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
h1 {
  font-size: 25px;
}
h2 {
  font-size: 18px;
  margin-top: 8px;
}
.right {
  margin-left: auto;
}
.empty {
  padding: 28px;
}
.matrix {
  overflow: auto;
  max-height: 62vh;
}
.matrix table {
  width: 100%;
  border-collapse: separate;
  border-spacing: 0;
  font-size: 13px;
}
.matrix thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--sheet-2);
  font-size: 12px;
  color: var(--ink-2);
  vertical-align: bottom;
  min-width: 76px;
  max-width: 108px;
}
.matrix tbody th,
.matrix tfoot th,
.matrix thead th:first-child {
  position: sticky;
  left: 0;
  z-index: 1;
  background: var(--sheet);
  min-width: 250px;
  max-width: none;
  text-align: left;
  font-weight: 500;
}
.matrix thead th:first-child {
  z-index: 3;
  background: var(--sheet-2);
  font-weight: 600;
}
.matrix tbody th span {
  display: block;
  font-weight: 400;
}
.matrix th,
.matrix td {
  padding: 5px 10px;
  border-bottom: 1px solid var(--line);
}
.matrix tbody td a {
  display: block;
}
.matrix tfoot th,
.matrix tfoot td {
  position: sticky;
  bottom: 0;
  background: var(--sheet-2);
  border-bottom: 0;
}
.num {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
</style>
