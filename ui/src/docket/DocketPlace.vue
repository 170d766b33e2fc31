<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { may, today } from '@/app/session'
import ItemSide from '@/content/ItemSide.vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, day, moment, plural } from '@/shared/format'
import { useUrl } from '@/shared/url'
import WhyDialog from '@/shared/WhyDialog.vue'
import Workbench from '@/shared/Workbench.vue'
import { signers } from '@/shared/words'
import BatchPane from './BatchPane.vue'

type Batch = Schemas['BatchView']
const { number, put } = useUrl()
const batch = number('batch')
const due = number('due')
const line = number('line')
const { act, busy, problem } = useAct()
const { data, error } = useQuery({ queryKey: ['docket'], queryFn: () => take(api.GET('/api/docket')) })

const parts = computed<[string, Batch[]][]>(() => {
  const all = data.value?.batches ?? []
  const parts: [string, Batch[]][] = [
    ['Waits for your signature', all.filter((b) => (b.state === 'open' || b.state === 'signing') && !b.mayNotSign)],
    ['Waits for somebody else', all.filter((b) => (b.state === 'open' || b.state === 'signing') && b.mayNotSign)],
    ['Being destroyed', all.filter((b) => b.state === 'executing')],
    ['Done', all.filter((b) => b.state === 'done' || b.state === 'withdrawn')],
  ]
  return parts.filter(([, list]) => list.length)
})
type Due = Schemas['DueGroup']
const blanket = number('blanket')
const isOpen = (g: Due) => !batch.value && (g.blanketId ? g.blanketId === blanket.value : g.series.id === due.value)
const group = computed(() => data.value?.due.find(isOpen) ?? null)
const show = (g: Due) => put({ due: g.blanketId ? null : String(g.series.id), blanket: g.blanketId ? String(g.blanketId) : null, batch: null, line: null }, true)
const clearing = ref(false)
async function clear(why: string) {
  const g = group.value!
  const done = await act(async () => {
    const made = await take(api.POST('/api/clearings', { body: { seriesId: g.blanketId ? null : g.series.id, blanketId: g.blanketId, items: g.items, why } }))
    await put({ batch: String(made.id), due: null, blanket: null, line: null }, true)
  })
  if (done) clearing.value = false
}
const where = (b: Batch) =>
  ({ open: `stage 1 of ${b.stages.length}`, signing: `${b.signOffs.length} of ${b.stages.length} signed`, executing: 'at work', done: `${count(b.destroyed)} destroyed`, withdrawn: 'withdrawn' })[b.state]
const grace = (iso: string) => (iso < today.value ? `grace ended ${day(iso)}` : `grace until ${day(iso)}`)

const open = (series: number) =>
  act(async () => {
    const made = await take(api.POST('/api/batches', { body: { seriesId: series } }))
    await put({ batch: String(made.id), due: null, line: null }, true)
  })
useEventListener(document, 'keydown', (e: KeyboardEvent) => {
  if (e.key !== 'Escape' || (e.target as HTMLElement).closest('.el-overlay, .el-popper, input, textarea')) return
  if (line.value) line.value = null
  else void put({ batch: null, due: null, blanket: null })
})
</script>

<template>
  <Workbench name="docket" :subject="!!batch || !!group" :side="!!batch && !!line" :list-width="350">
    <template #list>
      <header class="head"><h1>Docket</h1><span class="quiet small">what is due and waits for sign-off</span><RouterLink to="/schedule/certificates" class="small">Certificates</RouterLink></header>
      <p v-if="error" class="problem pad" role="alert">{{ error.message }}</p>
      <div class="scroll">
        <template v-for="[title, batches] in parts.filter(([t]) => t !== 'Done')" :key="title">
          <h2>{{ title }} · {{ batches.length }}</h2>
          <button v-for="b in batches" :key="b.id" class="entry" :class="{ open: b.id === batch }" :aria-current="b.id === batch" @click="put({ batch: String(b.id), due: null, line: null }, true)">
            <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true"><path d="M6 1 11 6 6 11 1 6Z" :fill="b.mayNotSign ? 'none' : 'var(--copper)'" stroke="var(--copper)" stroke-width="1.500" /></svg>
            <span class="what"><strong>{{ b.series.title }}</strong><small class="quiet">{{ b.series.code }} · {{ where(b) }} · {{ grace(b.graceEnds) }}</small></span><span class="num">{{ count(b.lines) }}</span>
          </button>
        </template>
        <h2>Due, in no batch yet · {{ data?.due.length ?? 0 }}</h2>
        <p v-if="data && data.due.length === 0" class="quiet pad small">Nothing is due beyond what lies in batches.</p>
        <button v-for="g in data?.due ?? []" :key="`${g.series.id}-${g.blanketId}`" class="entry" :class="{ open: isOpen(g) }" :aria-current="isOpen(g)" @click="show(g)">
          <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true"><path d="M6 1 11 6 6 11 1 6Z" fill="var(--copper)" /></svg>
          <span class="what"><strong>{{ g.series.title }}</strong><small class="quiet">{{ g.series.code }} · {{ g.stages.length ? grace(g.graceEnds) : 'no sign-off' }}</small></span><span class="num">{{ count(g.items) }}</span>
        </button>
        <template v-for="[title, batches] in parts.filter(([t]) => t === 'Done')" :key="title">
          <h2>{{ title }} · {{ batches.length }}</h2>
          <button v-for="b in batches" :key="b.id" class="entry" :class="{ open: b.id === batch }" @click="put({ batch: String(b.id), due: null, line: null }, true)">
            <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true"><rect x="1" y="4.500" width="10" height="3" fill="var(--sea)" /></svg>
            <span class="what"><strong>{{ b.series.title }}</strong><small class="quiet">{{ b.series.code }} · {{ where(b) }}<template v-if="b.certificateNumber"> · certificate {{ b.certificateNumber }}</template></small></span><span class="num">{{ count(b.lines) }}</span>
          </button>
        </template>
      </div>
    </template>
    <template #subject>
      <BatchPane v-if="batch" :id="batch" :key="batch" />
      <article v-else-if="group" class="group">
        <p class="small quiet">{{ group.series.code }} · {{ group.unit }}</p>
        <h1>{{ plural(group.items, 'item') }} due: {{ group.series.title }}</h1>
        <dl class="kv">
          <dt>Size</dt><dd>{{ bytes(group.bytes) }}</dd>
          <dt>Oldest due since</dt><dd :title="group.oldest">{{ day(group.oldest) }}</dd>
          <dt>Grace</dt><dd>{{ grace(group.graceEnds) }}</dd>
          <dt>Who signs</dt><dd>{{ group.stages.length ? `${signers(group.stages)}, one after the other` : 'nobody: the rule destroys without sign-off' }}</dd>
        </dl>
        <p class="quiet">{{ group.stages.length ? 'Opening a batch destroys nothing. The items are looked through, marked and signed by each stage; only then are they destroyed.' : 'Each item is looked at again before it is destroyed; what changed meanwhile stays. A certificate remains.' }}</p>
        <p v-if="problem && !clearing" class="problem" role="alert">{{ problem.message }}</p>
        <p class="acts"><template v-if="may('signDisposition')"><el-button v-if="group.stages.length" type="primary" :loading="busy" @click="open(group.series.id)">Open a batch of {{ count(group.items) }}</el-button><el-button v-else type="danger" @click="((problem = null), (clearing = true))">Destroy {{ plural(group.items, 'item') }} …</el-button></template><RouterLink :to="group.blanketId ? '/content?state=due&unfiled=true' : `/content?series=${group.series.id}&state=due`">See them in Content</RouterLink></p>
        <WhyDialog v-if="clearing" :title="`Destroy what is due under ${group.series.title}`" :says="`Destroy ${plural(group.items, 'item')} now`" danger word="destroy" :busy="busy" :problem="problem" @go="clear" @close="clearing = false"><p>{{ plural(group.items, 'item') }}, {{ bytes(group.bytes) }}, and their copies in safekeeping. This cannot be undone.</p></WhyDialog>
      </article>
      <p v-else class="quiet">Nothing is due there any more. Last look: {{ moment(new Date().toISOString()) }}.</p>
    </template>
    <template #side><ItemSide v-if="batch && line" :id="line" :key="line" /></template>
  </Workbench>
</template>

<style scoped>
.head { display: flex; align-items: baseline; gap: 10px; padding: 14px 16px 10px; border-bottom: 1px solid var(--line) }
.head a { margin-left: auto }
h1 { font-size: 18px }
.scroll { overflow: auto; flex: 1 }
.scroll h2 { font: 600 12.5px var(--sans); color: var(--ink-2); background: var(--sheet-2); padding: 6px 16px; border-bottom: 1px solid var(--line) }
.entry { display: grid; grid-template-columns: 14px minmax(0, 1fr) auto; gap: 10px; align-items: center; width: 100%; text-align: left; background: none; border: 0; border-bottom: 1px solid var(--line); padding: 6px 16px; color: var(--ink); cursor: pointer }
.entry:hover { background: var(--sheet-2) }
.entry.open { background: var(--sea-wash); box-shadow: inset 3px 0 0 var(--sea) }
.what { display: grid; line-height: 1.35 }
.what strong { font-weight: 600; font-size: 13.5px }
.what > * { overflow: hidden; text-overflow: ellipsis; white-space: nowrap }
small { font-size: 12px }
.num { font-weight: 600 }
.pad { padding: 8px 16px; margin: 0 }
.group { display: grid; gap: 12px; max-width: 640px }
.group h1 { font-size: 23px }
.group p { margin: 0 }
.acts { display: flex; gap: 16px; align-items: center }
</style>
