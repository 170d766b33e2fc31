<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, moment, plural } from '@/shared/format'
import { may } from '@/shared/session'
import ShowMore from '@/shared/ShowMore.vue'
import { decisionWords } from './words'

/** One round: who has answered, each line with its decision, and what was carried out. */
const { review, number } = defineProps<{ review: Schemas['ReviewView']; number: number }>()
const path = computed(() => ({ params: { path: { id: review.id, number } } }))
const { data, error } = useQuery({
  queryKey: ['round', review.id, number],
  queryFn: () => take(api.GET('/api/reviews/{id}/rounds/{number}', path.value)),
  refetchInterval: 10_000,
})
const round = computed(() => data.value?.round)
const { act, busy, problem } = useAct(['reviews', 'directory'])
const remind = () => act(() => take(api.POST('/api/reviews/{id}/rounds/{number}/reminders', path.value)))
const next = () => act(() => take(api.POST('/api/reviews/{id}/rounds/{number}/next-stage', path.value)))
const stages = computed(() => 1 + (review.settings.later?.length ?? 0))
const end = () => act(() => take(api.POST('/api/reviews/{id}/rounds/{number}/end', path.value)))
const carry = () => act(() => take(api.POST('/api/reviews/{id}/rounds/{number}/carrying-out', path.value)))
const change = (endsOn: string) =>
  act(() => take(api.PUT('/api/reviews/{id}/rounds/{number}', { ...path.value, body: { endsOn } })))
const handing = ref<string | null>(null)
const to = ref('')
async function hand() {
  if (
    await act(() =>
      take(
        api.POST('/api/reviews/{id}/rounds/{number}/hand-over', {
          ...path.value,
          body: { from: handing.value!, to: to.value },
        }),
      ),
    )
  )
    handing.value = null
}
const which = ref('all')
const lines = computed(() =>
  (data.value?.lines ?? []).filter(
    (l) =>
      which.value === 'all' ||
      l.decision === which.value ||
      (which.value === 'failed' && !!l.failure && !l.applied) ||
      (which.value === 'against' &&
        (l.decision === 'remove') !== l.adviseRemoval &&
        ['keep', 'remove'].includes(l.decision)),
  ),
)
const shown = ref(60)
const base = computed(() => `/api/reviews/${review.id}/rounds/${number}/report`)
const done = computed(() => (round.value ? round.value.lines - round.value.open : 0))
const nameOf = (mail: string) => data.value?.reviewers.find((r) => r.mail === mail)?.name ?? mail
</script>

<template>
  <section v-if="data && round" :aria-label="`Round ${number}`">
    <h2>
      Round {{ number }}: {{ day(round.startedOn) }} to
      <template v-if="round.endedAt">{{ day(round.endedAt.slice(0, 10)) }}, ended</template>
      <template v-else
        >{{ day(round.endsOn)
        }}<template v-if="stages > 1">, stage {{ round.stage }} of {{ stages }}</template></template
      >
    </h2>
    <el-progress
      :percentage="round.lines ? Math.round((done / round.lines) * 100) : 100"
      :stroke-width="8"
      :color="'var(--sea)'"
      :aria-label="`${done} of ${round.lines} lines decided`"
    />
    <p>
      {{ plural(round.lines, 'line') }}: {{ count(round.kept) }} kept, {{ count(round.removed) }} removed,
      {{ count(round.open) }} open<template v-if="round.endedAt"
        >; {{ count(round.applied) }} carried out and seen in the directory</template
      ><template v-if="round.failed"
        >, <strong class="lacking">▲ {{ count(round.failed) }} not carried out</strong></template
      >.
    </p>
    <p v-if="round.stamped.length" class="problem">
      ▲ {{ round.stamped.map(nameOf).join(', ') }} kept everything in less than two seconds a line and opened nothing.
    </p>
    <p v-if="may('manageAccess')" class="acts-row">
      <template v-if="!round.endedAt">
        <el-button size="small" :loading="busy" @click="remind">Send reminders</el-button>
        <label class="small"
          >Ends on
          <input
            type="date"
            class="box"
            :value="round.endsOn"
            @change="change(($event.target as HTMLInputElement).value)"
        /></label>
        <el-button v-if="round.stage < stages" size="small" :loading="busy" @click="next"
          >Start the next stage</el-button
        >
        <el-button size="small" :loading="busy" @click="end">End the round</el-button>
      </template>
      <template v-else>
        <el-button v-if="round.removed > round.applied" size="small" type="primary" :loading="busy" @click="carry"
          >Carry out {{ plural(round.removed - round.applied, 'removal') }}</el-button
        >
        <a :href="`${base}.pdf`" download>PDF</a> <a :href="`${base}.csv`" download>CSV</a>
        <a :href="`${base}.json`" download>JSON</a>
        <span class="small quiet hash">SHA-256 {{ round.reportHash.slice(0, 16) }}…</span>
        <a v-if="round.addenda.length" :href="`/api/reviews/${review.id}/rounds/${number}/addenda.json`" download>{{
          plural(round.addenda.length, 'addendum', 'addenda')
        }}</a>
      </template>
    </p>
    <p v-if="problem ?? error" class="problem" role="alert">{{ (problem ?? error)!.message }}</p>
    <table class="sheet">
      <thead>
        <tr>
          <th>Reviewer</th>
          <th class="num">Lines</th>
          <th class="num">Open</th>
          <th>Reminded</th>
          <th><span class="sr">Act</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in data.reviewers" :key="r.mail">
          <td>
            {{ r.name }} <span class="small quiet">{{ r.mail }}</span>
          </td>
          <td class="num">{{ r.lines }}</td>
          <td class="num" :class="{ lacking: r.open && !round.endedAt }">{{ r.open }}</td>
          <td class="small">{{ r.remindedAt ? moment(r.remindedAt) : '–' }}</td>
          <td class="small">
            <button
              v-if="r.open && !round.endedAt && may('manageAccess')"
              class="link"
              @click="((handing = r.mail), (to = ''))"
            >
              Reassign
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="handing" class="acts-row">
      Reassign the open lines of {{ handing }} to
      <el-input v-model="to" size="small" class="mail" aria-label="Mail address" placeholder="mail address" />
      <el-button size="small" type="primary" :loading="busy" @click="hand">Reassign</el-button>
      <button class="link" @click="handing = null">Cancel</button>
    </p>
    <div class="acts-row">
      <el-radio-group v-model="which" size="small" aria-label="Which lines"
        ><el-radio-button value="all">All</el-radio-button><el-radio-button value="open">Open</el-radio-button
        ><el-radio-button value="keep">Kept</el-radio-button><el-radio-button value="remove">Removed</el-radio-button
        ><el-radio-button value="against">Against the advice</el-radio-button
        ><el-radio-button value="failed">Failed</el-radio-button></el-radio-group
      >
    </div>
    <table class="sheet">
      <thead>
        <tr>
          <th>Who</th>
          <th>What</th>
          <th>Advice</th>
          <th>Decision</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in lines.slice(0, shown)" :key="l.id">
          <td>
            <RouterLink :to="{ path: '/access', query: { person: l.person } }">{{ l.personName }}</RouterLink>
          </td>
          <td>
            {{ l.whatName }} <span class="small quiet">{{ l.roles }}</span>
          </td>
          <td class="small" :title="l.grounds.join(' ')">
            {{ l.adviseRemoval ? 'remove' : 'keep' }}: {{ l.grounds[0] }}
          </td>
          <td class="small">
            <strong :class="{ lacking: l.decision === 'remove' }">{{ decisionWords[l.decision] }}</strong>
            <template v-if="l.bySilence"> by silence</template
            ><template v-else-if="l.decidedBy"> by {{ l.decidedBy }}</template>
            <template v-if="l.reason"> “{{ l.reason }}”</template>
            <span v-for="(f, i) in l.former" :key="i" class="quiet"
              ><br />Stage {{ i + 1 }}: {{ f.reviewer }} said
              {{ f.decision === 'open' ? 'nothing' : decisionWords[f.decision]
              }}{{ f.reason ? ` “${f.reason}”` : '' }}</span
            >
            <span v-if="l.applied" class="settled"> ✓ gone</span
            ><span v-else-if="l.failure" class="lacking">
              ▲ {{ l.failure }}{{ l.attempts > 1 ? ` Asked ${l.attempts} times.` : '' }}</span
            >
            <span v-if="l.meanwhile" class="quiet"> {{ l.meanwhile }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <ShowMore v-model="shown" :of="lines.length" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}
h2 {
  font-size: 16px;
}
p {
  margin: 0;
}
.mail {
  width: 240px;
}
.settled {
  color: var(--sea);
}
.box {
  height: 26px;
}
</style>
