<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'

const { matter, order } = defineProps<{ matter: number; order: Schemas['OrderView'] }>()
const emit = defineEmits<{ close: [] }>()
const { act, busy, problem, put } = useAct(['matters', 'items'])
const pins = ref('')
const ids = computed(() => [...pins.value.matchAll(/\d+/g)].map(Number))
async function pin(why: string) {
  const done = await act(async () =>
    put(
      ['matter', matter],
      await take(
        api.POST('/api/matters/{id}/orders/{order}/pins', {
          params: { path: { id: matter, order: order.id } },
          ...ifMatch(order.revision),
          body: { items: ids.value, selection: null, why },
        }),
      ),
    ),
  )
  if (done) emit('close')
}
</script>

<template>
  <WhyDialog
    title="Pin items to this order"
    :says="`Hold ${plural(ids.length, 'item')}`"
    :ready="ids.length > 0"
    :busy="busy"
    :problem="problem"
    @go="pin"
    @close="emit('close')"
    ><p>A pinned item stays held whatever the order’s query says.</p>
    <label class="label" for="pin-ids">Numbers of items, or their addresses from Content</label
    ><el-input id="pin-ids" v-model="pins" type="textarea" :rows="2" placeholder="1204, 1310"
  /></WhyDialog>
</template>
