<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useAct } from '@/shared/act'
import { api, ifMatch, take, type Schemas } from '@/shared/api/client'
import { plural } from '@/shared/format'
import { may } from '@/shared/session'
import ReviewMessages from './ReviewMessages.vue'
import ReviewRound from './ReviewRound.vue'
import ReviewSentence from './ReviewSentence.vue'

/** A review: its sentence, what a draft would ask of whom, and its rounds. */
type Settings = Schemas['ReviewSettings']
const { view, draft } = defineProps<{ view?: Schemas['ReviewView']; draft?: Settings }>()
const emit = defineEmits<{ made: [name: string] }>()
const was = computed(() => view?.settings ?? draft!)
const form = ref<Settings>({ ...was.value })
watch(was, (s) => (form.value = { ...s }))
const changed = computed(() => !view || JSON.stringify(form.value) !== JSON.stringify(was.value))
const drafted = computed(() => !view || view.state !== 'running')
const consequences = useQuery({
  queryKey: computed(() => ['review-consequences', form.value]),
  queryFn: () => take(api.POST('/api/reviews/consequences', { body: form.value })),
  enabled: computed(
    () =>
      drafted.value &&
      may('manageAccess') &&
      [form.value.groups, form.value.resources, form.value.applications, form.value.sets].some((l) => l?.length),
  ),
  placeholderData: keepPreviousData,
  retry: false,
})
const staged = computed(() => (form.value.later?.length ?? 0) > 0)
const { act, busy, problem } = useAct(['reviews'])
async function save() {
  const done = await act(() =>
    view
      ? take(
          api.PUT('/api/reviews/{id}', {
            params: { path: { id: view.id } },
            ...ifMatch(view.revision),
            body: form.value,
          }),
        )
      : take(api.POST('/api/reviews', { body: form.value })),
  )
  if (done && !view) emit('made', form.value.name.trim())
}
const start = () => act(() => take(api.POST('/api/reviews/{id}/rounds', { params: { path: { id: view!.id } } })))
const round = ref<number | null>(null)
const shownRound = computed(() => round.value ?? view?.rounds[0]?.number ?? null)
</script>

<template>
  <article class="review">
    <label class="sr" for="review-name">Name</label>
    <el-input v-if="may('manageAccess')" id="review-name" v-model="form.name" class="name" />
    <h1 v-else>{{ form.name }}</h1>
    <ReviewSentence :settings="form" :editable="may('manageAccess')" @change="form = $event" />
    <ReviewMessages v-if="may('manageAccess')" :settings="form" @change="form = $event" />
    <section v-if="drafted && consequences.data.value" class="panel block" aria-label="Consequences">
      <p>
        <strong>{{ plural(consequences.data.value.lines, 'line') }}</strong> for
        {{ plural(new Set(consequences.data.value.reviewers.map((r) => r.reviewer)).size, 'reviewer') }}; the advice is
        to remove {{ consequences.data.value.adviseRemoval }}; silence would remove
        <strong :class="{ lacking: consequences.data.value.silenceRemoves }">{{
          consequences.data.value.silenceRemoves
        }}</strong>.
      </p>
      <template v-if="consequences.data.value.leftOut.length">
        <p class="small">Not asked about:</p>
        <ul class="small">
          <li v-for="l in consequences.data.value.leftOut" :key="l">{{ l }}</li>
        </ul>
      </template>
      <table class="sheet">
        <thead>
          <tr>
            <th v-if="staged">Stage</th>
            <th>Reviewer</th>
            <th class="num">Lines</th>
            <th class="num">At ten seconds a line</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in consequences.data.value.reviewers" :key="`${r.stage} ${r.reviewer}`">
            <td v-if="staged" class="num">{{ r.stage }}</td>
            <td>
              {{ r.name }} <span v-if="!r.hasAccount" class="small quiet">answers by the link of the message</span>
            </td>
            <td class="num">{{ r.lines }}</td>
            <td class="num">{{ Math.max(1, Math.round(r.hours * 60)) }} min</td>
          </tr>
        </tbody>
      </table>
    </section>
    <p v-if="consequences.error.value" class="problem" role="alert">{{ consequences.error.value.message }}</p>
    <p v-if="may('manageAccess')" class="acts-row">
      <el-button :type="changed ? 'primary' : 'default'" :disabled="!changed" :loading="busy" @click="save">{{
        view ? 'Save the review' : 'Save draft'
      }}</el-button>
      <el-button
        v-if="view && view.state !== 'running'"
        type="primary"
        :disabled="changed"
        :loading="busy"
        @click="start"
        >{{
          consequences.data.value ? `Ask about ${plural(consequences.data.value.lines, 'line')}` : 'Start a round'
        }}</el-button
      >
    </p>
    <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
    <template v-if="view?.rounds.length">
      <el-radio-group
        v-if="view.rounds.length > 1"
        :model-value="shownRound"
        size="small"
        aria-label="Round"
        @change="(n: unknown) => (round = n as number)"
        ><el-radio-button v-for="r in view.rounds" :key="r.number" :value="r.number"
          >Round {{ r.number }}</el-radio-button
        ></el-radio-group
      >
      <ReviewRound v-if="shownRound" :key="shownRound" :review="view" :number="shownRound" />
    </template>
  </article>
</template>

<style scoped>
.review {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}
h1 {
  font-size: 20px;
}
.name {
  max-width: 460px;
  font-size: 16px;
}
p,
ul {
  margin: 0;
}
</style>
