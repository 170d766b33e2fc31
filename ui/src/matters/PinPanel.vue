<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { useOpenOrders } from './own'
import WhyDialog from '@/shared/WhyDialog.vue'

/** Holds a selection of items by hand, under an order of one of one's own matters. */
const { selection } = defineProps<{ selection: Schemas['ItemQuery']; items: number }>()
const emit = defineEmits<{ close: []; done: [] }>()
const { data } = useOpenOrders()
const orders = computed(() => data.value ?? [])
const { act, busy, problem } = useAct(['items', 'matters'])
const picked = ref<number>()
const chosen = computed({ get: () => picked.value ?? orders.value[0]?.orderId, set: (id) => (picked.value = id) })
async function pin(why: string) {
  const order = orders.value.find((o) => o.orderId === chosen.value)!
  const done = await act(() =>
    take(
      api.POST('/api/matters/{id}/orders/{order}/pins', {
        params: { path: { id: order.matterId, order: order.orderId } },
        ...ifMatch(order.revision),
        body: { items: null, selection, why },
      }),
    ),
  )
  if (done) emit('done')
}
</script>

<template>
  <WhyDialog
    title="Hold by hand"
    :says="`Hold ${plural(items, 'item')}`"
    :ready="!!chosen"
    :busy="busy"
    :problem="problem"
    @go="pin"
    @close="emit('close')"
  >
    <p>They stay held whatever the order’s query says, until the order is released.</p>
    <label class="label" for="pin-order">Under the order</label>
    <el-select id="pin-order" v-model="chosen" aria-label="Order"
      ><el-option
        v-for="o in orders"
        :key="o.orderId"
        :value="o.orderId"
        :label="`${o.matter} ${o.matterName}: ${o.number}. ${o.name}`"
    /></el-select>
  </WhyDialog>
</template>
