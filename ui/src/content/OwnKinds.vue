<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { count, plural } from '@/shared/format'
import { may } from '@/shared/session'

type Kind = Schemas['KindView']
/** The kinds of sensitive data that the organisation wrote itself. */
defineProps<{
  kinds: readonly Kind[]
  /** How many kinds are looked for, the product's own with them. */
  known: number
}>()
const emit = defineEmits<{ edit: [Kind] }>()
const { act, busy, problem } = useAct(['kinds'])
const dropping = ref<Kind | null>(null)
async function drop(k: Kind) {
  if (
    await act(() =>
      take(api.DELETE('/api/sensitive/kinds/{id}', { params: { path: { id: k.id! } }, ...ifMatch(k.revision) })),
    )
  )
    dropping.value = null
}
</script>

<template>
  <section class="panel block">
    <p v-if="kinds.length === 0" class="quiet">
      None yet. A kind is a pattern, perhaps with a check digit, and words that stand near it;
      {{ count(known) }} kinds are known without one.
    </p>
    <table v-else class="sheet">
      <thead>
        <tr>
          <th>Title</th>
          <th>Name in queries</th>
          <th>Pattern</th>
          <th>Words nearby</th>
          <th class="num">Items</th>
          <th><span class="sr">Change</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="k in kinds" :key="k.name">
          <td>{{ k.title }}</td>
          <td>
            <code>{{ k.name }}</code>
          </td>
          <td>
            <code>{{ k.definition?.pattern }}</code>
          </td>
          <td>{{ k.definition?.nearby.join(', ') }}</td>
          <td class="num">
            <RouterLink v-if="k.items" :to="`/content?kind=${k.name}`">{{ count(k.items) }}</RouterLink><span v-else
              >0</span
            >
          </td>
          <td class="num acts">
            <template v-if="may('writeKinds')"
              ><button class="link" :aria-label="`Change ${k.title}`" @click="emit('edit', k)">Change</button
              ><button class="link" :aria-label="`Remove ${k.title}`" @click="((problem = null), (dropping = k))">
                Remove
              </button></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <el-dialog
      :model-value="!!dropping"
      :title="`Remove ${dropping?.title}`"
      width="440"
      append-to-body
      @update:model-value="dropping = null"
    >
      <p>
        It is no longer looked for, and {{ plural(dropping?.items ?? 0, 'item') }} will no longer be known to hold it.
        Views and queries that name <code>{{ dropping?.name }}</code> will find nothing.
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <template #footer
        ><el-button @click="dropping = null">Keep it</el-button
        ><el-button type="danger" :loading="busy" @click="drop(dropping!)">Remove it</el-button></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
.acts button + button {
  margin-left: 12px;
}
code {
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
</style>
