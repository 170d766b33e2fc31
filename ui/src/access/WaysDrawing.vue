<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/shared/api/client'
import { plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'

/**
 * Every way from a person to a place, drawn in layers: the person at the left, the groups in between by their distance
 * from the person, the place that carries the grant at the right. The table beside it says the same.
 */
const { person, resource } = defineProps<{ person: string; resource: string }>()
const emit = defineEmits<{ close: [] }>()
const { data, error } = useQuery({
  queryKey: ['ways', person, resource],
  queryFn: () => take(api.GET('/api/access/ways', { params: { query: { person, resource } } })),
})
const [width, row] = [200, 34]
const drawing = computed(() => {
  const ways = data.value ?? []
  const names = new Map<string, string>()
  const layer = new Map<string, number>()
  const edges = new Map<string, { from: string; to: string; role?: string }>()
  const longest = Math.max(1, ...ways.map((w) => w.ids.length - 1))
  for (const way of ways)
    way.ids.forEach((id, i) => {
      names.set(id, way.names[i]!)
      const last = i === way.ids.length - 1
      layer.set(id, last ? longest : Math.max(layer.get(id) ?? 0, i))
      const from = way.ids[i - 1]
      if (from) edges.set(`${from}|${id}${last ? way.role : ''}`, { from, to: id, role: last ? way.role : undefined })
    })
  const columns: string[][] = Array.from({ length: longest + 1 }, () => [])
  for (const [id, l] of layer) columns[l]!.push(id)
  // Each column in the order of what its nodes come from, so that few lines cross.
  const at = new Map<string, number>()
  columns.forEach((column, l) => {
    const centre = (id: string) => {
      const above = [...edges.values()].filter((e) => e.to === id).map((e) => at.get(e.from) ?? 0)
      return above.length ? above.reduce((a, b) => a + b, 0) / above.length : 0
    }
    if (l) column.sort((a, b) => centre(a) - centre(b) || a.localeCompare(b))
    column.forEach((id, i) => at.set(id, i - (column.length - 1) / 2))
  })
  const tall = Math.max(1, ...columns.map((c) => c.length))
  const place = (id: string) => ({ x: layer.get(id)! * width, y: (at.get(id)! + (tall - 1) / 2) * row + 18 })
  return {
    nodes: [...layer.keys()].map((id) => ({ id, name: names.get(id)!, last: layer.get(id) === longest, ...place(id) })),
    lines: [...edges.values()].map((e) => ({ a: place(e.from), b: place(e.to), role: e.role })),
    width: longest * width + 190,
    height: tall * row + 8,
  }
})
const short = (name: string) => (name.length > 26 ? `${name.slice(0, 25)}…` : name)
const shown = ref(20)
</script>

<template>
  <section class="panel block" aria-label="All ways">
    <header>
      <h2>
        {{ plural(data?.length ?? 0, 'way') }} from {{ data?.[0]?.names[0] ?? person }} to
        {{ data?.[0]?.names.at(-1) ?? resource }}
      </h2>
      <button class="link" @click="emit('close')">Fold</button>
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <div v-if="data?.length" class="drawing" tabindex="0">
      <svg :width="drawing.width" :height="drawing.height" aria-hidden="true">
        <path
          v-for="(l, i) in drawing.lines"
          :key="i"
          :d="`M${l.a.x + 170} ${l.a.y} C${l.a.x + 190} ${l.a.y} ${l.b.x - 20} ${l.b.y} ${l.b.x} ${l.b.y}`"
          class="line"
        />
        <g v-for="n in drawing.nodes" :key="n.id" :transform="`translate(${n.x} ${n.y})`">
          <rect x="0" y="-13" width="170" height="26" rx="3" class="node" :class="{ end: n.last || n.x === 0 }" />
          <text x="8" y="4">{{ short(n.name) }}</text>
        </g>
      </svg>
    </div>
    <table v-if="data?.length" class="sheet">
      <thead>
        <tr>
          <th>Way</th>
          <th>Gives</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(w, i) in data.slice(0, shown)" :key="i">
          <td class="small">{{ w.names.join(' → ') }}</td>
          <td>{{ w.role }}</td>
        </tr>
      </tbody>
    </table>
    <ShowMore v-model="shown" :of="data?.length ?? 0" />
  </section>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
}
.drawing {
  overflow: auto;
  max-height: 380px;
}
.line {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 1.5;
}
.node {
  fill: var(--sheet-2);
  stroke: var(--line-2);
}
.node.end {
  fill: var(--sea-wash);
  stroke: var(--sea);
}
text {
  font-size: 12.5px;
  fill: var(--ink);
}
</style>
