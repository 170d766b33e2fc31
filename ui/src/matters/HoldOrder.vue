<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Problem, type Schemas } from '@/shared/api/client'
import { bytes, count, day, plural } from '@/shared/format'
import GroupList from '@/shared/GroupList.vue'
import WhyDialog from '@/shared/WhyDialog.vue'
import FoundTable from './FoundTable.vue'
import HoldSentence from './HoldSentence.vue'
import KeptItems from './KeptItems.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import { orderStateWords } from './words'
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
const asked = refDebounced(
  computed(() => JSON.stringify(current.value)),
  250,
)
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
const pins = ref('')
const group = ref<{ title: string; query: Record<string, boolean> } | null>(null)
/** A figure of the consequences that is looked into. */
const behind = ref<{ group: string; title: string; container?: number } | null>(null)
const lookIn = (f: Schemas['PlaceFigures']) =>
  (behind.value = { group: 'found', container: f.id, title: `${plural(f.items, 'item')} found in ${f.name}` })
const parts = computed(() => {
  const f = figures.value
  if (!f) return []
  const all = [
    { group: 'found', count: f.found.items, label: `found, ${bytes(f.found.bytes)}`, tone: '' },
    { group: 'newly', count: f.newly.items, label: 'newly held', tone: 'plum' },
    { group: 'alsoHeld', count: f.alsoHeld, label: 'held by others already', tone: '' },
    { group: 'dueToday', count: f.dueToday, label: 'due today; they stay', tone: '' },
    { group: 'onDocket', count: f.onDocket, label: 'in batches; they drop out', tone: '' },
    { group: 'leaving', count: f.leaving.items, label: 'would leave', tone: f.leaving.items ? 'copper' : '' },
  ]
  return all.filter((p) => (p.group !== 'onDocket' || p.count) && (p.group !== 'leaving' || order.state === 'inForce'))
})
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
const ids = computed(() => [...pins.value.matchAll(/\d+/g)].map(Number))
async function pin(why: string) {
  const done = await act(async () =>
    showMatter(
      await take(
        api.POST('/api/matters/{id}/orders/{order}/pins', {
          ...path,
          ...ifMatch(order.revision),
          body: { items: ids.value, selection: null, why },
        }),
      ),
    ),
  )
  if (done) {
    dialog.value = null
    pins.value = ''
  }
}
</script>

<template>
  <article class="order panel" :class="order.state" :aria-label="`Order ${order.number}: ${order.name}`">
    <button class="title" :aria-expanded="open" @click="emit('toggle')">
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
        <path
          d="M2 1.500h8v4.500a4 4 0 0 1-8 0Z"
          :fill="order.state === 'inForce' ? 'currentColor' : 'none'"
          stroke="currentColor"
          stroke-width="1.300"
        />
      </svg>
      <strong>{{ order.number }}. {{ order.name }}</strong>
      <span class="small quiet"
        >{{ orderStateWords[order.state] }}<template v-if="order.inForceAt"> since {{ day(order.inForceAt) }}</template
        ><template v-if="order.releasedAt">, released {{ day(order.releasedAt) }}</template
        ><template v-if="order.applying"> · being applied …</template
        ><template v-if="order.draft && order.inForce"> · draft waits</template></span
      >
      <span class="num">{{
        order.held.items || order.state !== 'draft' ? `${plural(order.held.items, 'item')} held` : ''
      }}</span>
    </button>
    <div v-if="open" class="body">
      <HoldSentence
        :definition="current"
        :in-force="order.inForce"
        :custodians="matter.custodians"
        :editable="editable"
        @change="written = $event"
      />
      <dl v-if="order.state !== 'draft'" class="tally">
        <div>
          <dt>Held</dt>
          <dd>
            <button
              v-if="order.held.items"
              class="link"
              @click="group = { title: `${plural(order.held.items, 'item')} held by order ${order.number}`, query: {} }"
            >
              {{ plural(order.held.items, 'item') }}</button><span v-else>nothing</span>, {{ bytes(order.held.bytes) }}
          </dd>
        </div>
        <div>
          <dt>In</dt>
          <dd>{{ plural(order.containers, 'container') }}</dd>
        </div>
        <div>
          <dt>Held by other orders too</dt>
          <dd>
            <button
              v-if="order.alsoHeld"
              class="link"
              @click="group = { title: 'Also held by other orders', query: { also: true } }"
            >
              {{ count(order.alsoHeld) }}</button><span v-else>none</span>
          </dd>
        </div>
        <div>
          <dt>Due today but for holds</dt>
          <dd>
            <button
              v-if="order.dueButFor"
              class="link"
              @click="group = { title: 'Would be due today but for holds', query: { due: true } }"
            >
              {{ count(order.dueButFor) }}</button><span v-else>none</span>
          </dd>
        </div>
        <div v-if="order.pinned">
          <dt>Pinned by hand</dt>
          <dd>
            <button class="link" @click="group = { title: 'Pinned by hand', query: { pinned: true } }">
              {{ count(order.pinned) }}
            </button>
          </dd>
        </div>
        <div v-if="order.releasing">
          <dt>Released, delay running</dt>
          <dd>
            <button
              class="link"
              @click="
                group = { title: 'Released, and protected until the delay has passed', query: { releasing: true } }
              "
            >
              {{ count(order.releasing) }}
            </button>
          </dd>
        </div>
      </dl>
      <template v-if="isDraft && order.state !== 'released'">
        <section class="consequences" aria-label="Consequences" :aria-busy="consequences.isFetching.value">
          <p v-if="consequences.error.value" class="problem" role="alert">{{ consequences.error.value.message }}</p>
          <div v-else-if="figures" class="figures">
            <div v-for="p in parts" :key="p.group">
              <strong :class="p.tone">{{ count(p.count) }}</strong><button
                v-if="p.count"
                class="link small"
                :data-group="p.group"
                @click="behind = { group: p.group, title: `${plural(p.count, 'item')}: ${p.label}` }"
              >
                {{ p.label }}</button
              ><span v-else class="small quiet">{{ p.label }}</span>
            </div>
          </div>
          <p v-if="figures?.remark" class="problem" role="status">{{ figures.remark }}</p>
          <details v-if="figures?.byContainer.length" class="small">
            <summary>By container ({{ figures.byContainer.length }})</summary>
            <FoundTable of="Container" :found="figures.byContainer" @look="lookIn" />
          </details>
        </section>
        <p v-if="narrower" class="small">What would leave, leaves by a release: with its delay, and a second person.</p>
        <p v-if="refused && !dialog" class="problem" role="alert">{{ refused.message }}</p>
        <p v-if="editable" class="acts-row">
          <el-button
            v-if="lead && !narrower"
            type="primary"
            :disabled="!figures || consequences.isFetching.value || !!consequences.error.value"
            @click="((refused = null), (dialog = 'activate'))"
            >Put in force — {{ plural(figures?.found.items ?? 0, 'item') }} held</el-button
          >
          <el-button
            v-if="lead && narrower"
            type="primary"
            :disabled="consequences.isFetching.value"
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
    <WhyDialog
      v-if="dialog === 'pin'"
      title="Pin items to this order"
      :says="`Hold ${plural(ids.length, 'item')}`"
      :ready="ids.length > 0"
      :busy="working"
      :problem="refused"
      @go="pin"
      @close="dialog = null"
      ><p>A pinned item stays held whatever the order’s query says.</p>
      <label class="label" for="pin-ids">Numbers of items, or their addresses from Content</label
      ><el-input id="pin-ids" v-model="pins" type="textarea" :rows="2" placeholder="1204, 1310"
    /></WhyDialog>
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
    <GroupList
      v-if="behind"
      :id="['order', order.id, behind.group, behind.container, asked]"
      :title="behind.title"
      :load="
        () =>
          take(
            api.POST('/api/matters/{id}/orders/{order}/consequences/{group}', {
              params: {
                path: { id: matter.id, order: order.id, group: behind!.group },
                query: { container: behind!.container },
              },
              body: JSON.parse(asked) as Definition,
            }),
          )
      "
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
.title {
  display: flex;
  width: 100%;
  gap: 10px;
  align-items: baseline;
  text-align: left;
  padding: 9px 14px;
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
}
.title:hover {
  background: var(--sheet-2);
}
.title svg {
  color: var(--plum);
  flex: none;
  align-self: center;
}
.title .num {
  margin-left: auto;
  white-space: nowrap;
}
.body {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  padding: 4px 14px 14px;
}
.tally {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 26px;
  margin: 0;
  font-size: 13.5px;
}
.tally dt {
  color: var(--ink-3);
  font-size: 12px;
}
.tally dd {
  margin: 0;
}
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(120px, 1fr));
  border: 1px solid var(--line);
  border-radius: var(--radius);
}
.figures div {
  display: grid;
  gap: 2px;
  padding: 8px 12px;
  border-right: 1px solid var(--line);
}
.figures div:last-child {
  border-right: 0;
}
.figures strong {
  font: 600 20px/1.1 var(--serif);
}
.plum {
  color: var(--plum);
}
.copper {
  color: var(--copper);
}
.figures .link {
  justify-self: start;
  text-align: left;
}
details {
  padding-top: 6px;
}
summary {
  cursor: pointer;
  color: var(--ink-2);
}
p {
  margin: 0;
}
</style>
