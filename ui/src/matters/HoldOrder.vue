<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { useAsked } from '@/shared/asked'
import { api, ifMatch, take, type Problem, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import WhyDialog from '@/shared/WhyDialog.vue'
import HoldSentence from './HoldSentence.vue'
import KeptItems from './KeptItems.vue'
import OrderBehind from './OrderBehind.vue'
import OrderFigures from './OrderFigures.vue'
import OrderTally from './OrderTally.vue'
import OrderTitle from './OrderTitle.vue'
import PinItems from './PinItems.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import { useTyped } from '@/shared/typed'

type Definition = Schemas['HoldDefinition']
const { matter, order, open, release } = defineProps<{
  matter: Schemas['MatterView']
  order: Schemas['OrderView']
  open: boolean
  release: (
    order: Schemas['OrderView'],
    why: string,
    days: number,
    fingerprint: string,
    narrowed: Definition | null,
  ) => Promise<boolean>
  busy: boolean
  problem: Problem | null
}>()
const emit = defineEmits<{ toggle: [] }>()
const path = { params: { path: { id: matter.id, order: order.id } } }
const {
  act,
  busy: working,
  problem: refused,
  put,
} = useAct(['matters', 'items'], { refused: () => consequences.refetch() })
/** What is being written here and not saved yet; survives a reload. */
const written = useTyped<Definition>(`order.${order.id}`)
const base = computed(() => order.draft ?? order.inForce!)
const current = computed(() => written.value ?? base.value)
const changed = computed(() => !!written.value && JSON.stringify(written.value) !== JSON.stringify(base.value))
const isDraft = computed(() => changed.value || !!order.draft)
const editable = computed(() => matter.part !== 'reader' && matter.state === 'open' && order.state !== 'released')
const lead = computed(() => matter.part === 'lead')
const { asked, behind: stale } = useAsked(current)
const consequences = useQuery({
  queryKey: computed(() => ['order-consequences', order.id, asked.value, order.revision]),
  queryFn: () =>
    take(
      api.POST('/api/matters/{id}/orders/{order}/consequences', {
        ...path,
        body: JSON.parse(asked.value) as Definition,
      }),
    ),
  enabled: computed(() => open && isDraft.value),
  placeholderData: keepPreviousData,
  gcTime: 0,
})
const figures = computed(() => consequences.data.value)
const narrower = computed(() => order.state === 'inForce' && (figures.value?.leaving.items ?? 0) > 0)
const dialog = ref<'activate' | 'release' | 'narrow' | 'pin' | null>(null)
const group = ref<{ title: string; query: Record<string, boolean> } | null>(null)
/** A figure of the consequences that is looked into. */
const behind = ref<{ group: string; title: string; container?: number } | null>(null)
const showMatter = (m: Schemas['MatterView']) => put(['matter', matter.id], m)
const revision = ref(order.revision)
async function save() {
  revision.value = order.revision
  if (!changed.value) return true
  return act(async () => {
    const after = await take(
      api.PUT('/api/matters/{id}/orders/{order}/draft', {
        ...path,
        ...ifMatch(order.revision),
        body: { name: order.name, definition: written.value! },
      }),
    )
    revision.value = after.orders.find((o) => o.id === order.id)!.revision
    showMatter(after)
    written.value = null
  })
}
async function activate(why: string) {
  const fingerprint = figures.value!.fingerprint
  if (!(await save())) return
  const done = await act(async () =>
    showMatter(
      await take(
        api.POST('/api/matters/{id}/orders/{order}/activation', {
          ...path,
          ...ifMatch(revision.value),
          body: { fingerprint, why },
        }),
      ),
    ),
  )
  if (done) dialog.value = null
}
const drop = () =>
  act(async () => {
    written.value = null
    if (order.draft)
      showMatter(
        await take(api.DELETE('/api/matters/{id}/orders/{order}/draft', { ...path, ...ifMatch(order.revision) })),
      )
  })
async function go(why: string, days: number, fingerprint: string) {
  const narrowed = dialog.value === 'narrow' ? current.value : null
  if (await release(order, why, days, fingerprint, narrowed)) {
    written.value = null
    dialog.value = null
  }
}
</script>

<template>
  <article class="order panel" :class="order.state" :aria-label="`Order ${order.number}: ${order.name}`">
    <OrderTitle :order="order" :open="open" @toggle="emit('toggle')" />
    <div v-if="open" class="body">
      <HoldSentence
        :definition="current"
        :in-force="order.inForce"
        :custodians="matter.custodians"
        :editable="editable"
        @change="written = $event"
      />
      <OrderTally v-if="order.state !== 'draft'" :order="order" @look="(title, query) => (group = { title, query })" />
      <template v-if="isDraft && order.state !== 'released'">
        <OrderFigures
          :order="order"
          :figures="figures ?? null"
          :looking="consequences.isFetching.value"
          :problem="consequences.error.value?.message ?? null"
          @look="behind = $event"
        />
        <p v-if="narrower" class="small">What would leave, leaves by a release: with its delay, and a second person.</p>
        <p v-if="refused && !dialog" class="problem" role="alert">{{ refused.message }}</p>
        <p v-if="editable" class="acts-row">
          <el-button
            v-if="lead && !narrower"
            type="primary"
            :disabled="!figures || stale || consequences.isFetching.value || !!consequences.error.value"
            @click="((refused = null), (dialog = 'activate'))"
            >Put in force — {{ plural(figures?.found.items ?? 0, 'item') }} held</el-button
          >
          <el-button
            v-if="lead && narrower"
            type="primary"
            :disabled="stale || consequences.isFetching.value"
            @click="dialog = 'narrow'"
            >Release {{ plural(figures?.leaving.items ?? 0, 'item') }} …</el-button
          >
          <el-button :disabled="!changed" :loading="working" @click="save">Keep as draft</el-button>
          <el-button @click="drop">{{ order.inForce ? 'Drop the draft' : 'Drop the order' }}</el-button>
        </p>
      </template>
      <p
        v-else-if="order.state === 'inForce' && matter.state !== 'deleted' && matter.part !== 'reader'"
        class="acts-row"
      >
        <el-button v-if="lead && order.placesChanged && editable" @click="written = { ...order.inForce! }"
          >Put in force again</el-button
        >
        <el-button v-if="editable" @click="((refused = null), (dialog = 'pin'))">Pin items …</el-button>
        <el-button
          v-if="lead"
          :disabled="order.applying || matter.releases.some((r) => r.orderId === order.id && r.state === 'waiting')"
          @click="dialog = 'release'"
          >Release …</el-button
        >
      </p>
    </div>
    <WhyDialog
      v-if="dialog === 'activate'"
      title="Put the order in force"
      :says="`Hold ${plural(figures?.found.items ?? 0, 'item')}`"
      :ready="!!figures && !consequences.isFetching.value"
      :busy="working"
      :problem="refused"
      @go="activate"
      @close="dialog = null"
      ><p>
        From this moment nothing of it can be disposed of, and what arrives and matches is held on arrival.
        {{
          figures?.dueToday
            ? `${plural(figures.dueToday, 'item that is due today stays', 'items that are due today stay')}.`
            : ''
        }}
      </p></WhyDialog
    >
    <PinItems v-if="dialog === 'pin'" :matter="matter.id" :order="order" @close="dialog = null" />
    <ReleaseDialog
      v-if="dialog === 'release' || dialog === 'narrow'"
      :matter="matter"
      :order="order"
      :narrowed="dialog === 'narrow' ? current : null"
      :days="matter.delayDays"
      :busy="busy"
      :problem="problem"
      @go="go"
      @close="dialog = null"
    />
    <KeptItems
      v-if="group"
      :matter="matter.id"
      :order="order"
      :title="group.title"
      :query="group.query"
      @close="group = null"
    />
    <OrderBehind
      v-if="behind"
      :matter="matter.id"
      :order="order.id"
      :behind="behind"
      :asked="asked"
      @close="behind = null"
    />
  </article>
</template>

<style scoped>
.order {
  border-left: 3px solid var(--line-2);
}
.order.inForce {
  border-left-color: var(--plum);
}
.body {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  padding: 4px 14px 14px;
}
p {
  margin: 0;
}
</style>
