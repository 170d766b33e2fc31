<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { bytes, day, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import { roleWords } from '@/shared/words'
import GiveEvidence from './GiveEvidence.vue'
import PartForm from './PartForm.vue'
import ProofList from './ProofList.vue'
import RolesSelect from './RolesSelect.vue'
import { partWords } from './words'

/** One part of a control: whether it counts, until when, its latest proof, and the act that brings a new one. */
const { part, control, revision } = defineProps<{
  part: Schemas['PartView']
  control: number
  /** Of the control. */
  revision: number
}>()
const { act, busy, problem } = useAct(['readiness'])
const path = computed(() => ({ params: { path: { id: part.id } } }))
const latest = computed(() => part.proofs.find((p) => !p.withdrawnWhy))
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
const giving = ref(false)
const changing = ref(false)
/** A file that awaits approval is in view at once. */
const listing = ref(part.toApprove !== null)
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
      <template v-else-if="part.kept">Only other roles see its proofs.</template>
      <template v-else>No {{ part.kind === 'test' ? 'run' : 'proof' }} yet.</template>
      <template v-if="part.kind === 'routine' && part.due">
        Due {{ day(part.due) }}<template v-if="part.doer">, by {{ part.doer }}</template
        >.</template
      >
      <template v-if="part.counts && part.endsOn"> It counts until {{ day(part.endsOn) }}.</template>
    </p>
    <p class="small acts">
      <button v-if="part.kind === 'test' && may('manageReadiness')" class="link" :disabled="busy" @click="run">
        Run now
      </button>
      <button v-if="part.kind === 'routine' && part.mayBring" class="link" @click="doing = !doing">Mark as done</button>
      <button v-if="part.kind === 'evidence' && part.mayBring" class="link" @click="giving = !giving">
        Add evidence
      </button>
      <a v-if="latest?.fileName && !latest.broken" :href="`/api/proofs/${latest.id}/file`" download
        >{{ latest.fileName }} ({{ bytes(latest.bytes) }})</a
      >
      <button v-if="latest && part.kind === 'test'" class="link" @click="opened = opened ? null : latest.id">
        {{ opened ? 'Hide the facts' : 'Show the facts' }}
      </button>
      <span v-if="latest?.hash" class="quiet hash">SHA-256 {{ latest.hash.slice(0, 12) }}…</span>
      <span v-if="part.seenBy.length" class="quiet">seen by {{ part.seenBy.map((r) => roleWords[r]).join(', ') }}</span>
      <button v-if="may('manageReadiness')" class="link" @click="readers = readers ? null : [...part.seenBy]">
        Who sees it
      </button>
      <button v-if="may('manageReadiness')" class="link" @click="changing = !changing">Edit</button>
      <button v-if="may('manageReadiness')" class="link away" :disabled="busy" @click="remove">Remove</button>
    </p>
    <p v-if="readers" class="acts-row">
      <RolesSelect v-model="readers" class="readers" />
      <el-button size="small" type="primary" :loading="busy" @click="setReaders">Save</el-button>
    </p>
    <GiveEvidence v-if="giving" :part="part" @close="giving = false" />
    <PartForm v-if="changing" :control="control" :part="part" :revision="revision" @close="changing = false" />
    <p v-if="doing" class="acts-row">
      <el-input v-model="words" size="small" placeholder="What was done, and what shows it" aria-label="Proof" />
      <el-button size="small" type="primary" :loading="busy" @click="done">Save</el-button>
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
    <p v-if="latest?.broken" class="small lacking">▲ Its file is missing or was changed, so it does not count.</p>
    <p v-if="part.toApprove" class="small lacking">◐ The latest file awaits your approval.</p>
    <p v-else-if="part.needsReview && latest && !latest.reviewedBy" class="small quiet">
      ◐ The latest file counts once a second person has approved it.
    </p>
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
        >{{ p.withdrawnWhy ? '–' : p.passed ? '●' : '▲' }}</span
      >
    </p>
    <p v-if="part.proofs.length && part.kind !== 'test'" class="small">
      <button class="link" :aria-expanded="listing" @click="listing = !listing">
        {{ listing ? 'Hide the proofs' : plural(part.proofs.length, 'proof') }}
      </button>
    </p>
    <ProofList v-if="listing" :part="part" />
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
