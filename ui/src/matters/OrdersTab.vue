<script setup lang="ts">
import { computed, ref } from 'vue'
import { today } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import WhyDialog from '@/shared/WhyDialog.vue'
import HoldOrder from './HoldOrder.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import { useTypedText } from '@/shared/typed'

const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const path = { params: { path: { id: matter.id } } }
const { act, busy, problem, put } = useAct(['matters', 'items'])
const { number } = useUrl()
const open = number('order')
/** A release that one came to decide on, from Today. */
const asked = number('release')
const may = computed(() => matter.part !== 'reader' && matter.state === 'open')
const adding = ref(false)
const name = useTypedText(`order.new.${matter.id}`)
const deciding = ref<Schemas['ReleaseView'] | null>(
  matter.releases.find((r) => r.id === asked.value && r.mayDecide) ?? null,
)
const declining = ref<Schemas['ReleaseView'] | null>(null)
const undoing = ref<Schemas['ReleaseView'] | null>(null)
const showMatter = (m: Schemas['MatterView']) => put(['matter', matter.id], m)
const stateWords: Record<Schemas['ReleaseState'], string> = {
  waiting: 'waits for a second person',
  agreed: 'released',
  declined: 'declined',
  undone: 'undone',
}
const orderOf = (r: Schemas['ReleaseView']) => matter.orders.find((o) => o.id === r.orderId)!

async function add() {
  const done = await act(async () => {
    const after = await take(
      api.POST('/api/matters/{id}/orders', {
        ...path,
        body: {
          name: name.value,
          definition: {
            containers: [],
            custodians: matter.custodians.map((c) => c.id),
            query: null,
            from: null,
            to: null,
          },
        },
      }),
    )
    showMatter(after)
    open.value = after.orders.at(-1)!.id
  })
  if (done) {
    adding.value = false
    name.value = ''
  }
}
async function decide(agree: boolean, why: string, fingerprint: string | null) {
  const release = (agree ? deciding : declining).value!
  const done = await act(async () =>
    showMatter(
      await take(
        api.POST('/api/matters/{id}/releases/{release}/decision', {
          params: { path: { id: matter.id, release: release.id } },
          body: { agree, why, fingerprint },
        }),
      ),
    ),
  )
  if (done) deciding.value = declining.value = null
}
async function ask(
  order: Schemas['OrderView'],
  why: string,
  delayDays: number,
  fingerprint: string,
  narrowed: Schemas['HoldDefinition'] | null,
) {
  return act(async () =>
    showMatter(
      await take(
        api.POST('/api/matters/{id}/orders/{order}/releases', {
          params: { path: { id: matter.id, order: order.id } },
          ...ifMatch(order.revision),
          body: { narrowed, why, delayDays, fingerprint },
        }),
      ),
    ),
  )
}
async function undo(why: string) {
  const done = await act(async () =>
    showMatter(
      await take(
        api.POST('/api/matters/{id}/releases/{release}/undoing', {
          params: { path: { id: matter.id, release: undoing.value!.id } },
          body: { why },
        }),
      ),
    ),
  )
  if (done) undoing.value = null
}
</script>

<template>
  <section class="orders" aria-label="Hold orders">
    <header>
      <h2>Hold orders</h2>
      <el-button v-if="may" size="small" @click="((problem = null), (adding = true))">New order</el-button>
    </header>
    <p v-if="matter.orders.length === 0" class="quiet">
      No order yet. An order keeps what it names from being disposed of, changed or lost, what exists and what arrives,
      until it is released.
    </p>
    <HoldOrder
      v-for="o in matter.orders"
      :key="o.id"
      :matter="matter"
      :order="o"
      :open="open === o.id || matter.orders.length === 1"
      :release="ask"
      :busy="busy"
      :problem="problem"
      @toggle="open = open === o.id ? null : o.id"
    />
    <template v-if="matter.releases.length">
      <h2>Releases</h2>
      <table class="sheet">
        <thead>
          <tr>
            <th>Order</th>
            <th class="num">Items</th>
            <th>State</th>
            <th>Asked</th>
            <th>Why</th>
            <th>Protected through</th>
            <th><span class="sr">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in matter.releases" :key="r.id">
            <td>{{ r.order }}<span v-if="r.narrowed" class="quiet small"> narrowed</span></td>
            <td class="num">{{ count(r.items) }}</td>
            <td :class="{ late: r.state === 'waiting' }">
              {{ stateWords[r.state] }}<span v-if="r.decidedBy" class="quiet small"> by {{ r.decidedBy }}</span>
            </td>
            <td>
              {{ day(r.askedAt) }}<span class="quiet small"> by {{ r.askedBy }}</span>
            </td>
            <td>{{ r.why }}</td>
            <td>
              {{ r.state === 'waiting' ? plural(r.delayDays, 'day') : r.through ? day(r.through) : '–'
              }}<span v-if="r.state === 'agreed' && r.through && r.through < today" class="quiet small"> passed</span>
            </td>
            <td class="acts">
              <template v-if="r.mayDecide"
                ><button class="link" @click="((problem = null), (deciding = r))">See what it does …</button
                ><button class="link" @click="((problem = null), (declining = r))">Decline …</button></template
              ><button v-if="r.mayUndo" class="link" @click="((problem = null), (undoing = r))">Undo …</button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <el-dialog v-model="adding" title="New hold order" width="440" append-to-body>
      <form class="fields" @submit.prevent="add">
        <label class="label" for="o-name">What it is to keep, in a few words</label
        ><el-input id="o-name" v-model="name" placeholder="The collision" />
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
        <p class="small quiet">
          It begins as a draft with all custodians of the matter, and keeps nothing before it is put in force.
        </p>
      </form>
      <template #footer
        ><el-button @click="adding = false">Leave it</el-button
        ><el-button type="primary" :disabled="!name.trim()" :loading="busy" @click="add"
          >Make the draft</el-button
        ></template
      >
    </el-dialog>
    <ReleaseDialog
      v-if="deciding"
      :matter="matter"
      :order="orderOf(deciding)"
      :narrowed="deciding.narrowed"
      :days="deciding.delayDays"
      :asked="deciding"
      :busy="busy"
      :problem="problem"
      @go="(why, _, fingerprint) => decide(true, why, fingerprint)"
      @close="((deciding = null), (asked = null))"
    />
    <WhyDialog
      v-if="declining"
      title="Decline the release"
      says="Decline it"
      :busy="busy"
      :problem="problem"
      @go="decide(false, $event, null)"
      @close="declining = null"
      ><p>Order {{ declining.order }} goes on keeping everything it keeps.</p></WhyDialog
    >
    <WhyDialog
      v-if="undoing"
      title="Undo the release"
      :says="`Hold ${plural(undoing.items, 'item')} again`"
      :busy="busy"
      :problem="problem"
      @go="undo"
      @close="undoing = null"
      ><p>Everything it let go is held again at once, and what arrived meanwhile is looked through.</p></WhyDialog
    >
  </section>
</template>

<style scoped>
.orders {
  display: grid;
  gap: 10px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h2 {
  font-size: 16px;
  margin-top: 6px;
}
.late {
  color: var(--copper);
  font-weight: 600;
}
.acts {
  white-space: nowrap;
}
.acts .link {
  margin-right: 10px;
}
</style>
