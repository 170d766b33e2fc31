<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, moment } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'

/** The states of an item that are kept in safekeeping, and the way back from there. */
const { id } = defineProps<{ id: number }>()
const copies = useQuery({
  queryKey: computed(() => ['item', id, 'copies']),
  queryFn: () => take(api.GET('/api/items/{id}/copies', { params: { path: { id } } })),
})
const { act, busy, problem } = useAct(['items', 'copies'])
const restoring = ref<Schemas['CopyView'] | null>(null)
async function restore(why: string) {
  const done = await act(async () => {
    const { path } = await take(
      api.POST('/api/items/{id}/restoration', { params: { path: { id } }, body: { hash: restoring.value!.hash, why } }),
    )
    ElMessage({ message: `Put back as ${path}. The source is being scanned.`, type: 'success' })
  })
  if (done) restoring.value = null
}
</script>

<template>
  <section v-if="copies.data.value?.length" class="copies" aria-label="In safekeeping">
    <h3>In safekeeping</h3>
    <ul>
      <li v-for="c in copies.data.value" :key="c.hash">
        <span :title="c.hash"
          >{{ moment(c.at) }}, {{ bytes(c.bytes) }}<span v-if="c.isNow" class="quiet"> · as it is now</span
          ><span v-if="c.fault" class="problem"> {{ c.fault }}</span></span
        ><button
          v-if="may('writeSchedule') && !c.fault"
          class="link small"
          :aria-label="`Put back … the copy of ${moment(c.at)}`"
          @click="((problem = null), (restoring = c))"
        >
          Put back …
        </button>
      </li>
    </ul>
    <WhyDialog
      v-if="restoring"
      title="Put the copy back"
      says="Put it back"
      :busy="busy"
      :problem="problem"
      @go="restore"
      @close="restoring = null"
      ><p>
        It is placed on its source where it lay, or beside it where something else lies there now. Nothing is
        overwritten.
      </p></WhyDialog
    >
  </section>
</template>

<style scoped>
.copies {
  border-bottom: 1px solid var(--line);
  padding-bottom: 14px;
  margin-bottom: 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 13px;
}
li {
  display: flex;
  gap: 10px;
  padding: 3px 0;
}
li button {
  margin-left: auto;
  white-space: nowrap;
}
.problem {
  display: inline;
}
</style>
