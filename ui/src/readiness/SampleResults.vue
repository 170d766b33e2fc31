<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import ShowMore from '@/shared/ShowMore.vue'

/** Each subject that was drawn, with its result and a note; set by the person who drew the sample. */
const { audit, sample } = defineProps<{ audit: number; sample: Schemas['SampleView'] }>()
const { act, busy, problem } = useAct(['readiness'])
const items = reactive(sample.picked.map((p) => ({ deviates: p.deviates ?? false, note: p.note })))
const shown = ref(20)
const save = () =>
  act(() =>
    take(
      api.POST('/api/audits/{id}/samples/{sample}/result', {
        params: { path: { id: audit, sample: sample.id } },
        body: {
          items: items.map((r, i) => ({ place: i + 1, ...r })).filter((r) => r.deviates || r.note.trim()),
        },
      }),
    ),
  )
</script>

<template>
  <details>
    <summary class="small">{{ plural(sample.picked.length, 'subject') }} drawn</summary>
    <table class="sheet">
      <thead>
        <tr>
          <th class="num">No.</th>
          <th>Subject</th>
          <th>Deviates</th>
          <th>Note</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(p, i) in sample.picked.slice(0, shown)" :key="i">
          <td class="num">{{ i + 1 }}</td>
          <td>{{ p.name }}</td>
          <td>
            <input
              v-if="sample.maySet"
              v-model="items[i]!.deviates"
              type="checkbox"
              :aria-label="`${p.name} deviates`"
            />
            <template v-else>{{ p.deviates === null ? '' : p.deviates ? '▲ yes' : 'no' }}</template>
          </td>
          <td>
            <el-input v-if="sample.maySet" v-model="items[i]!.note" size="small" :aria-label="`Note on ${p.name}`" />
            <template v-else>{{ p.note }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <ShowMore v-model="shown" :of="sample.picked.length" />
    <p v-if="sample.maySet" class="acts-row">
      <el-button size="small" type="primary" :loading="busy" @click="save">Save the results</el-button>
      <span class="small quiet">{{ plural(items.filter((r) => r.deviates).length, 'deviation') }}</span>
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
  </details>
</template>
