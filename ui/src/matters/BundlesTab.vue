<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, count, day, moment, plural } from '@/shared/format'
import { keepTyped } from '@/shared/typed'

const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const { act, busy, problem, put } = useAct(['matters'])
const may = computed(() => matter.part !== 'reader' && matter.state !== 'deleted')
const making = ref(false)
const form = reactive({
  name: '',
  what: '',
  mbox: true,
  onePerContent: false,
  attachments: true,
  tag: null as number | null,
})
const saved = keepTyped(`bundle.${matter.id}`, form)
const withholding = computed(() => matter.tags.filter((t) => t.withholds).map((t) => `“${t.name}”`))
const choices = computed(() => [
  ...matter.sweeps
    .filter((s) => s.last?.state === 'done' && s.last.items)
    .map((s) => ({
      value: `run-${s.last!.id}`,
      label: `Sweep “${s.name}”, run ${day(s.last!.at)}: ${plural(s.last!.items, 'item')}`,
    })),
  ...matter.orders
    .filter((o) => o.held.items)
    .map((o) => ({
      value: `order-${o.id}`,
      label: `Order ${o.number}, ${o.name}: ${plural(o.held.items, 'item')} held`,
    })),
])
function begin() {
  problem.value = null
  Object.assign(form, { name: '', tag: null, what: choices.value[0]?.value ?? '' })
  making.value = true
}
async function make() {
  const [kind, id] = form.what.split('-')
  const options = {
    runId: kind === 'run' ? Number(id) : null,
    orderId: kind === 'order' ? Number(id) : null,
    mbox: form.mbox,
    onePerContent: form.onePerContent,
    attachments: form.attachments,
    tagId: form.tag,
  }
  const done = await act(async () =>
    put(
      ['matter', matter.id],
      await take(
        api.POST('/api/matters/{id}/bundles', {
          params: { path: { id: matter.id } },
          body: { name: form.name, options },
        }),
      ),
    ),
  )
  if (done) {
    saved()
    making.value = false
  }
}
const remove = (b: Schemas['MatterBundleView']) =>
  act(async () =>
    put(
      ['matter', matter.id],
      await take(
        api.DELETE('/api/matters/{id}/bundles/{bundle}', { params: { path: { id: matter.id, bundle: b.id } } }),
      ),
    ),
  )
const states: Record<Schemas['RunState'], string> = {
  waiting: 'waits',
  running: 'being made …',
  done: 'made',
  failed: 'failed',
}
const number = (prefix: string, n: number) => `${prefix}${String(n).padStart(6, '0')}`
</script>

<template>
  <section class="bundles" aria-label="Bundles">
    <header>
      <h2>Bundles</h2>
      <el-button v-if="may" size="small" :disabled="choices.length === 0" @click="begin">Make a bundle</el-button>
    </header>
    <p v-if="matter.bundles.length === 0" class="quiet">
      Nothing was handed over yet. A bundle is a bag (RFC 8493) of what a sweep found or an order keeps: originals,
      texts, a load file, mail as a mailbox, duplicates, and the chain of custody.
    </p>
    <article v-for="b in matter.bundles" :key="b.id" class="panel bundle" :class="{ gone: b.deletedAt }">
      <h3>{{ b.name }}</h3>
      <p class="small quiet">
        {{ b.deletedAt ? `removed ${day(b.deletedAt)}` : states[b.state]
        }}<template v-if="b.madeAt">{{ ' ' }}{{ moment(b.madeAt) }}</template> · asked by {{ b.askedBy }} · kept through
        {{ day(b.keepThrough) }}
      </p>
      <p v-if="b.failure" class="problem">{{ b.failure }}</p>
      <dl v-if="b.state === 'done'" class="kv">
        <dt>Documents</dt>
        <dd>
          {{ count(b.documents) }} of {{ plural(b.items, 'item') }}, {{ bytes(b.bytes)
          }}<template v-if="b.controlPrefix">, from {{ number(b.controlPrefix, b.firstControl) }}</template>
        </dd>
        <dt>Duplicates</dt>
        <dd>
          {{
            b.duplicates
              ? `${count(b.duplicates)}${b.options.onePerContent ? ', left out and listed' : ', listed'}`
              : 'none'
          }}
        </dd>
        <dt>Left out</dt>
        <dd>{{ b.left ? `${plural(b.left, 'item')} that could not be read; the bag lists them` : 'nothing' }}</dd>
        <template v-if="b.withheld"
          ><dt>Withheld</dt>
          <dd>{{ plural(b.withheld, 'document') }}; the privilege log names them</dd></template
        >
        <dt>SHA-256</dt>
        <dd class="hash">{{ b.hash }}</dd>
      </dl>
      <p v-if="b.state === 'done' && !b.deletedAt && may" class="acts-row">
        <a :href="`/api/matters/${matter.id}/bundles/${b.id}.zip`" download>Take it as one file (ZIP)</a
        ><button v-if="matter.part === 'lead'" class="link" :disabled="busy" @click="remove(b)">Remove it</button>
      </p>
    </article>
    <p v-if="problem && !making" class="problem" role="alert">{{ problem.message }}</p>
    <el-dialog v-model="making" title="Make a bundle" width="560" append-to-body>
      <form class="fields" @submit.prevent="make">
        <label class="label" for="b-name">Name</label
        ><el-input id="b-name" v-model="form.name" placeholder="First disclosure" />
        <label class="label" for="b-what">What goes into it</label
        ><el-select id="b-what" v-model="form.what" aria-label="What goes into it"
          ><el-option v-for="c in choices" :key="c.value" :value="c.value" :label="c.label"
        /></el-select>
        <template v-if="matter.tags.length">
          <label class="label" for="b-tag">Of these, items that bear</label
          ><el-select id="b-tag" v-model="form.tag" clearable placeholder="any tag or none" aria-label="Tag"
            ><el-option v-for="t in matter.tags" :key="t.id" :value="t.id" :label="t.name"
          /></el-select>
          <p v-if="withholding.length" class="small quiet">
            What bears {{ withholding.join(' or ') }} stays out, and so does every copy of it; the privilege log names
            it.
          </p>
        </template>
        <label class="check"
          ><input v-model="form.attachments" type="checkbox" /> Attachments as documents of their own, in the family of
          their message</label
        >
        <label class="check"><input v-model="form.mbox" type="checkbox" /> All messages as one mailbox besides</label>
        <label class="check"
          ><input v-model="form.onePerContent" type="checkbox" /> Of identical documents only the first; the others are
          listed</label
        >
        <p class="small quiet">
          {{
            matter.controlPrefix
              ? `Documents are numbered from ${number(matter.controlPrefix, matter.nextControl)}.`
              : 'Documents are not numbered; set a prefix under Members to number them.'
          }}
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="making = false">Leave it</el-button
        ><el-button type="primary" :disabled="!form.name.trim() || !form.what" :loading="busy" @click="make"
          >Make it</el-button
        ></template
      >
    </el-dialog>
  </section>
</template>

<style scoped>
.bundles {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 10px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h2 {
  font-size: 16px;
}
h3 {
  font-size: 15px;
  margin: 0;
}
.bundle {
  padding: 12px 16px;
  display: grid;
  gap: 6px;
}
.bundle p {
  margin: 0;
}
.gone {
  opacity: 0.7;
}
.hash {
  font-size: 12px;
  color: var(--ink-2);
}
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
