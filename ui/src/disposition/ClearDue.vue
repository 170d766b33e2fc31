<script setup lang="ts">
import { ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'

/** Destroys what is due under a rule without sign-off, by somebody who did not put the rule into effect. */
const { group } = defineProps<{ group: Schemas['DueGroup'] }>()
const emit = defineEmits<{ made: [batch: number] }>()
const { act, busy, problem } = useAct(['batches', 'items'])
const asking = ref(false)

async function clear(why: string) {
  const { series, blanketId, items } = group
  const done = await act(async () => {
    const body = { seriesId: blanketId ? null : series.id, blanketId, items, why }
    emit('made', (await take(api.POST('/api/clearings', { body }))).id)
  })
  if (done) asking.value = false
}
</script>

<template>
  <el-button type="danger" :disabled="!!group.mayNotClear" @click="((problem = null), (asking = true))"
    >Destroy {{ plural(group.items, 'item') }} …</el-button
  >
  <span v-if="group.mayNotClear" class="small quiet">{{ group.mayNotClear }}</span>
  <WhyDialog
    v-if="asking"
    :title="`Destroy what is due under ${group.series.title}`"
    :says="`Destroy ${plural(group.items, 'item')} now`"
    danger
    word="destroy"
    :busy="busy"
    :problem="problem"
    @go="clear"
    @close="asking = false"
    ><p>
      {{ plural(group.items, 'item') }}, {{ bytes(group.bytes) }}, and their copies in safekeeping. This cannot be
      undone.
    </p></WhyDialog
  >
</template>
