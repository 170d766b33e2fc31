<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, fileBody, take, type Schemas } from '@/shared/api/client'
import { bytes, day, moment } from '@/shared/format'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import { roleWords } from '@/shared/words'
import RolesSelect from './RolesSelect.vue'
import { partWords } from './words'

/** One part of a control: whether it counts, until when, its latest proof, and the act that brings a new one. */
const { part, control } = defineProps<{ part: Schemas['PartView']; control: number }>()
const { act, busy, problem } = useAct(['readiness'])
const path = computed(() => ({ params: { path: { id: part.id } } }))
const latest = computed(() => part.proofs[0])
const opened = ref<number | null>(null)
const proof = useQuery({
  queryKey: computed(() => ['readiness', 'proof', opened.value]),
  queryFn: () => take(api.GET('/api/proofs/{id}', { params: { path: { id: opened.value! } } })),
  enabled: computed(() => opened.value !== null),
})
const run = () => act(() => take(api.POST('/api/control-parts/{id}/runs', path.value)))
const doing = ref(false)
const words = ref('')
async function done() {
  if (await act(() => take(api.POST('/api/control-parts/{id}/done', { ...path.value, body: { text: words.value } })))) {
    doing.value = false
    words.value = ''
  }
}
async function give(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file)
    await act(() =>
      take(
        api.POST('/api/control-parts/{id}/evidence', {
          params: { path: { id: part.id }, query: { file: file.name } },
          ...fileBody(file),
        } as never),
      ),
    )
  input.value = ''
}
const remove = () =>
  act(() => take(api.DELETE('/api/controls/{id}/parts/{part}', { params: { path: { id: control, part: part.id } } })))
/** Who sees its proofs, while it is chosen anew; null while nobody does. */
const readers = ref<Schemas['Role'][] | null>(null)
async function setReaders() {
  const kept = await act(() =>
    take(
      api.PUT('/api/controls/{id}/parts/{part}/readers', {
        params: { path: { id: control, part: part.id } },
        body: { seenBy: readers.value! },
      }),
    ),
  )
  if (kept) readers.value = null
}
const shown = ref(40)
const lacking = computed(() => (proof.data.value?.facts ?? []).filter((f) => !f.right))
</script>

<template>
  <section class="part" :class="{ counts: part.counts }" :aria-label="part.title">
    <p>
      <span :class="part.counts ? 'settled' : 'lacking'">{{ part.counts ? '✓' : '▲' }}</span>{{ ' '
      }}<strong>{{ part.title }}</strong
      >{{ ' ' }}<span class="small quiet">{{ partWords[part.kind] }}, weight {{ part.weight }}</span>
    </p>
    <p class="small">
      <template v-if="latest"
        >{{ latest.says }} <span class="quiet">{{ moment(latest.at) }}, {{ latest.by }}.</span></template
      >
      <template v-else-if="part.kept">Its proofs are for others to see.</template>
      <template v-else>No {{ part.kind === 'test' ? 'run' : 'proof' }} yet.</template>
      <template v-if="part.kind === 'routine' && part.due">
        Due {{ day(part.due) }}<template v-if="part.doer">, by {{ part.doer }}</template
        >.</template
      >
      <template v-if="part.counts && part.endsOn"> It counts until {{ day(part.endsOn) }}.</template>
    </p>
    <p class="small acts">
      <button v-if="part.kind === 'test' && may('manageReadiness')" class="link" :disabled="busy" @click="run">
        Run it now
      </button>
      <button v-if="part.kind === 'routine' && part.mayBring" class="link" @click="doing = !doing">It is done</button>
      <label v-if="part.kind === 'evidence' && part.mayBring" class="link file"
        >Give a file<input type="file" class="sr" @change="give"
      /></label>
      <a v-if="latest?.fileName" :href="`/api/proofs/${latest.id}/file`" download
        >{{ latest.fileName }} ({{ bytes(latest.bytes) }})</a
      >
      <button v-if="latest && part.kind === 'test'" class="link" @click="opened = opened ? null : latest.id">
        {{ opened ? 'Fold the facts' : 'What it looked at' }}
      </button>
      <span v-if="latest?.hash" class="quiet hash">SHA-256 {{ latest.hash.slice(0, 12) }}…</span>
      <span v-if="part.seenBy.length" class="quiet">seen by {{ part.seenBy.map((r) => roleWords[r]).join(', ') }}</span>
      <button v-if="may('manageReadiness')" class="link" @click="readers = readers ? null : [...part.seenBy]">
        Who sees it
      </button>
      <button v-if="may('manageReadiness')" class="link away" :disabled="busy" @click="remove">Remove</button>
    </p>
    <p v-if="readers" class="acts-row">
      <RolesSelect v-model="readers" class="readers" />
      <el-button size="small" type="primary" :loading="busy" @click="setReaders">Keep it</el-button>
    </p>
    <p v-if="doing" class="acts-row">
      <el-input v-model="words" size="small" placeholder="What was done, and what shows it" aria-label="Proof" />
      <el-button size="small" type="primary" :loading="busy" @click="done">It is done</el-button>
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <div v-if="opened && proof.data.value" class="facts">
      <p class="small">
        {{ lacking.length }} of {{ proof.data.value.facts.length }} are not as they should be, as it was on
        {{ moment(proof.data.value.proof.at) }}:
      </p>
      <ul class="small">
        <li v-for="f in lacking.slice(0, shown)" :key="f.id">
          <RouterLink v-if="f.link" :to="f.link">{{ f.name }}</RouterLink><template v-else>{{ f.name }}</template
          >: {{ f.why }}
        </li>
      </ul>
      <ShowMore v-model="shown" :of="lacking.length" />
    </div>
    <p
      v-if="part.proofs.length > 1"
      class="small quiet strip"
      role="img"
      :aria-label="`${part.proofs.length} former proofs`"
    >
      <span
        v-for="p in [...part.proofs].reverse()"
        :key="p.id"
        :title="`${day(p.day)}: ${p.says}`"
        :class="p.passed ? 'settled' : 'lacking'"
        >{{ p.passed ? '●' : '▲' }}</span
      >
    </p>
  </section>
</template>

<style scoped>
.part {
  border-left: 3px solid var(--copper);
  padding: 2px 0 2px 12px;
  margin-bottom: 12px;
  display: grid;
  gap: 3px;
}
.part.counts {
  border-color: var(--sea);
}
p,
ul {
  margin: 0;
}
.settled {
  color: var(--sea);
}
.acts {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
  align-items: baseline;
}
.file {
  cursor: pointer;
}
.readers {
  width: 320px;
}
.away {
  margin-left: auto;
}
.strip {
  letter-spacing: 2px;
  font-size: 10px;
}
</style>
