<script setup lang="ts">
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { count } from '@/shared/format'
import { useUrl } from '@/shared/url'
import FoundTable from './FoundTable.vue'
import HoldSentence from './HoldSentence.vue'
import MatterTags from './MatterTags.vue'
import RunFigures from './RunFigures.vue'
import SweepCount from './SweepCount.vue'
import SweepHits from './SweepHits.vue'
import TermTable from './TermTable.vue'
import UnreadDialog from './UnreadDialog.vue'
import { useTypedText } from '@/shared/typed'

type Definition = Schemas['HoldDefinition']
const { matter } = defineProps<{ matter: Schemas['MatterView'] }>()
const path = { params: { path: { id: matter.id } } }
const { act, busy, problem, put } = useAct(['matters'])
const { number } = useUrl()
const chosen = number('sweep')
const sweep = computed(() => matter.sweeps.find((s) => s.id === chosen.value) ?? matter.sweeps[0])
const may = computed(() => matter.part !== 'reader' && matter.state === 'open')
const adding = ref(false)
const name = useTypedText(`sweep.new.${matter.id}`)
const written = ref<{ id: number; definition: Definition } | null>(null)
const current = computed(() =>
  written.value?.id === sweep.value?.id && written.value ? written.value.definition : sweep.value?.definition,
)
const changed = computed(
  () => !!sweep.value && JSON.stringify(current.value) !== JSON.stringify(sweep.value.definition),
)
const showMatter = (m: Schemas['MatterView']) => put(['matter', matter.id], m)
const last = computed(() => sweep.value?.last ?? null)
const figures = computed(() => last.value?.figures ?? null)
const hits = ref<{ title: string; query: Record<string, number | string> } | null>(null)
/** The run whose files that were not read whole are looked at. */
const unread = ref<number | null>(null)
async function add() {
  const done = await act(async () => {
    const after = await take(
      api.POST('/api/matters/{id}/sweeps', {
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
    chosen.value = after.sweeps.at(-1)!.id
  })
  if (!done) return
  adding.value = false
  name.value = ''
}
const save = () =>
  act(async () =>
    showMatter(
      await take(
        api.PUT('/api/matters/{id}/sweeps/{sweep}', {
          params: { path: { id: matter.id, sweep: sweep.value!.id } },
          ...ifMatch(sweep.value!.revision),
          body: { name: sweep.value!.name, definition: current.value! },
        }),
      ),
    ),
  )
async function run() {
  if (changed.value && !(await save())) return
  written.value = null
  await act(() =>
    take(
      api.POST('/api/matters/{id}/sweeps/{sweep}/runs', {
        params: { path: { id: matter.id, sweep: sweep.value!.id } },
      }),
    ),
  )
}
const remove = () =>
  act(async () => {
    await take(
      api.DELETE('/api/matters/{id}/sweeps/{sweep}', { params: { path: { id: matter.id, sweep: sweep.value!.id } } }),
    )
    chosen.value = null
  })
const running = computed(() => last.value?.state === 'waiting' || last.value?.state === 'running')
</script>

<template>
  <section class="sweeps" aria-label="Sweeps">
    <header>
      <h2>Sweeps</h2>
      <el-button v-if="may" size="small" @click="((problem = null), (name = ''), (adding = true))">New sweep</el-button>
    </header>
    <MatterTags :matter="matter" />
    <p v-if="!sweep" class="quiet">
      No sweep yet. A sweep looks for something and counts it, by place, person and word. It keeps nothing.
    </p>
    <template v-else>
      <p v-if="matter.sweeps.length > 1" class="chips">
        <button
          v-for="s in matter.sweeps"
          :key="s.id"
          class="chip"
          :aria-pressed="s.id === sweep.id"
          @click="chosen = s.id"
        >
          {{ s.name }}<span v-if="s.last?.state === 'done'">{{ count(s.last.items) }}</span>
        </button>
      </p>
      <h3>{{ sweep.name }}</h3>
      <HoldSentence
        verb="Find"
        :definition="current!"
        :in-force="changed ? sweep.definition : null"
        :custodians="matter.custodians"
        :editable="may"
        @change="written = { id: sweep!.id, definition: $event }"
      />
      <SweepCount v-if="changed && current" :matter="matter.id" :definition="current" />
      <p v-if="problem && !adding" class="problem" role="alert">{{ problem.message }}</p>
      <p v-if="may" class="acts-row">
        <el-button type="primary" size="small" :loading="busy || running" @click="run">{{
          changed ? 'Save and run' : last ? 'Run again' : 'Run'
        }}</el-button><el-button v-if="changed" size="small" @click="written = null">As it was</el-button
        ><el-button v-else size="small" @click="remove">Remove</el-button>
      </p>
      <p v-if="last?.failure" class="problem" role="alert">{{ last.failure }}</p>
      <template v-if="last && figures">
        <RunFigures
          :matter="matter.id"
          :run="last"
          :figures="figures"
          @look="(title, query) => (hits = { title, query })"
          @unreadable="unread = last.id"
        />
        <TermTable
          v-if="figures.byTerm.length"
          :terms="figures.byTerm"
          @look="(title, query) => (hits = { title, query })"
        />
        <div class="two">
          <FoundTable
            of="Container"
            :found="figures.byContainer"
            @look="hits = { title: `In ${$event.name}`, query: { container: $event.id } }"
          />
          <FoundTable
            of="Custodian"
            :found="figures.byCustodian"
            @look="hits = { title: `Of ${$event.name}`, query: { custodian: $event.id } }"
          />
        </div>
      </template>
      <p v-else-if="running" class="quiet" role="status">Looking …</p>
    </template>
    <el-dialog v-model="adding" title="New sweep" width="420" append-to-body>
      <form class="fields" @submit.prevent="add">
        <label class="label" for="s-name">What it looks for, in a few words</label
        ><el-input id="s-name" v-model="name" />
        <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      </form>
      <template #footer
        ><el-button @click="adding = false">Leave it</el-button
        ><el-button type="primary" :disabled="!name.trim()" :loading="busy" @click="add">Make it</el-button></template
      >
    </el-dialog>
    <UnreadDialog
      v-if="unread !== null && figures"
      :matter="matter.id"
      :run="unread"
      :counted="figures.unreadable"
      @close="unread = null"
    />
    <SweepHits
      v-if="hits && last"
      :matter="matter"
      :run="last.id"
      :title="hits.title"
      :query="hits.query"
      :words="figures?.byTerm[Number(hits.query.term)]?.term ?? last.definition.query ?? ''"
      @close="hits = null"
    />
  </section>
</template>

<style scoped>
.sweeps {
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
p {
  margin: 0;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(280px, 1fr));
  gap: 24px;
  align-items: start;
}
</style>
