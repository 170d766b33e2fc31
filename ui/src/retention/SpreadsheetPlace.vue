<script setup lang="ts">
import { ElMessage } from 'element-plus'
import 'element-plus/es/components/message/style/css'
import { computed, ref } from 'vue'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import Consequences from '@/shared/Consequences.vue'
import { count, plural } from '@/shared/format'
import SchedulePage from './SchedulePage.vue'

const words = ref('')
const file = ref<{ csv: string | null; xlsx: string | null } | null>(null)
const view = ref<Schemas['ScheduleReturn'] | null>(null)
const { act, busy, problem } = useAct(['schedule'], { refused: async () => view.value && file.value && ask() })
// Reading changes nothing; a file that is chosen while another is read waits its turn.
const reading = useAct([], { inTurn: true })
const due = computed(() => view.value?.consequences?.figures.becomeDue.items ?? 0)
const drafts = computed(() => (view.value ? view.value.added.length + view.value.changed.length : 0))
const address = (kind: string) =>
  `/api/schedule.${kind}${words.value.trim() ? `?words=${encodeURIComponent(words.value.trim())}` : ''}`

async function choose(event: Event) {
  const input = event.target as HTMLInputElement
  const chosen = input.files?.[0]
  if (!chosen) return
  const isWorkbook = chosen.name.toLowerCase().endsWith('.xlsx')
  const binary = isWorkbook
    ? new Uint8Array(await chosen.arrayBuffer()).reduce((text, byte) => text + String.fromCharCode(byte), '')
    : ''
  file.value = isWorkbook ? { csv: null, xlsx: btoa(binary) } : { csv: await chosen.text(), xlsx: null }
  view.value = null
  input.value = ''
  problem.value = null
  await reading.act(ask)
}
async function ask() {
  view.value = await take(api.POST('/api/schedule/return', { body: { ...file.value!, fingerprint: null } }))
}
async function apply() {
  const done = await act(async () => {
    await take(
      api.POST('/api/schedule/return', {
        body: { ...file.value!, fingerprint: view.value!.consequences!.fingerprint },
      }),
    )
    ElMessage({ message: `${plural(drafts.value, 'draft')} written. Nothing rules by them yet.`, type: 'success' })
  })
  if (done) view.value = file.value = null
}
</script>

<template>
  <SchedulePage
    :within="{ to: '/schedule', label: 'Series' }"
    title="Spreadsheet"
    note="take the schedule out, edit hundreds of rows, bring it back"
  >
    <section class="panel block" aria-label="Out">
      <h2>Out</h2>
      <p class="acts-row">
        <el-input
          v-model="words"
          class="words"
          placeholder="All, or: code, title, function, unit"
          aria-label="Which series"
          clearable
        /><a :href="address('csv')" download>CSV</a><a :href="address('xlsx')" download>XLSX</a>
      </p>
      <p class="small quiet">
        One row for each series, as it stands or as its draft says. A clause reads <code>P7Y created fiscal</code>;
        several are separated by semicolons. Leave the column revision as it is: it tells whether somebody else changed
        a row meanwhile.
      </p>
    </section>
    <section v-if="may('writeSchedule')" class="panel block" aria-label="Back">
      <h2>Back</h2>
      <input type="file" accept=".csv,.xlsx" aria-label="Spreadsheet" @change="choose" />
      <p v-if="busy || reading.busy.value" class="quiet">Reading …</p>
      <p
        v-for="p in [problem, reading.problem.value].filter((x) => x !== null)"
        :key="p.message"
        class="problem"
        role="alert"
      >
        {{ p.message }}
      </p>
      <template v-if="view">
        <p class="sum">
          <strong>{{ count(view.changed.length) }}</strong> changed ·
          <strong>{{ count(view.added.length) }}</strong> added ·
          <strong>{{ count(view.unchanged) }}</strong> unchanged<template v-if="view.refused.length">
            · <strong class="lacking">{{ count(view.refused.length) }}</strong> refused</template
          ><template v-if="view.conflicts.length">
            · <strong class="lacking">{{ count(view.conflicts.length) }}</strong> in conflict</template
          >
        </p>
        <table v-if="view.refused.length" class="sheet">
          <caption>
            Refused: mend these lines and bring the sheet back again. Nothing was written.
          </caption>
          <thead>
            <tr>
              <th class="num">Line</th>
              <th>Column</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in view.refused" :key="r.line">
              <td class="num">{{ r.line }}</td>
              <td>{{ r.column }}</td>
              <td>{{ r.why }}</td>
            </tr>
          </tbody>
        </table>
        <table v-if="view.conflicts.length" class="sheet">
          <caption>
            In conflict: somebody changed these since the sheet was taken out. Take them out anew, or mend them here.
          </caption>
          <thead>
            <tr>
              <th>Series</th>
              <th>Column</th>
              <th>What stands now</th>
              <th>What the sheet says</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="c in view.conflicts" :key="c.line"
              ><tr v-for="d in c.theirs" :key="d.column">
                <td>{{ c.code }}</td>
                <td>{{ d.column }}</td>
                <td>{{ d.before || 'empty' }}</td>
                <td>{{ d.after || 'empty' }}</td>
              </tr></template
            >
          </tbody>
        </table>
        <table v-if="view.changed.length" class="sheet">
          <caption>
            Changed
          </caption>
          <thead>
            <tr>
              <th class="num">Line</th>
              <th>Series</th>
              <th>Column</th>
              <th>Before</th>
              <th>After</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="r in view.changed" :key="r.line"
              ><tr v-for="d in r.changes" :key="d.column">
                <td class="num">{{ r.line }}</td>
                <td>{{ r.code }}</td>
                <td>{{ d.column }}</td>
                <td>
                  <s class="quiet">{{ d.before || 'empty' }}</s>
                </td>
                <td>{{ d.after || 'empty' }}</td>
              </tr></template
            >
          </tbody>
        </table>
        <p v-if="view.added.length"><span class="label">Added</span> {{ view.added.map((a) => a.code).join(', ') }}</p>
        <Consequences
          v-if="view.consequences && view.consequences.figures.inReach.items"
          :view="view.consequences"
          :load="
            (group) =>
              take(
                api.POST('/api/schedule/return/{group}', {
                  params: { path: { group } },
                  body: { ...file!, fingerprint: null },
                }),
              )
          "
          of="sheet"
        />
        <p v-if="view.consequences" class="acts-row">
          <el-button :type="due ? 'danger' : 'primary'" :disabled="drafts === 0" :loading="busy" @click="apply">{{
            drafts
              ? `Write ${plural(drafts, 'draft')}${due ? ` — ${count(due)} would become due today` : ''}`
              : 'Nothing differs'
          }}</el-button><span class="small quiet"
            >Drafts rule nothing; they are put into effect <RouterLink to="/schedule/drafts">together</RouterLink> or
            one by one.</span
          >
        </p>
      </template>
    </section>
  </SchedulePage>
</template>

<style scoped>
.words {
  width: 300px;
}
.sum {
  margin: 0;
}
caption {
  text-align: left;
  color: var(--ink-2);
  font-size: 12.5px;
  padding-bottom: 4px;
}
</style>
