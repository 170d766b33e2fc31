<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { may } from '@/shared/session'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, moment, plural } from '@/shared/format'
import { precisionWords, type RuleBeginning } from './filing'
import NewSeries from './NewSeries.vue'

const emit = defineEmits<{ rule: [beginning: RuleBeginning] }>()
const router = useRouter()
const { act, busy, problem } = useAct(['filing', 'items'])
const { data, error } = useQuery({
  queryKey: ['filing-suggestions'],
  queryFn: () => take(api.GET('/api/filing-suggestions')),
})
const drafting = ref<Schemas['SeriesDefinition'] | null>(null)
const asked = ref(false)

const learn = async () => (asked.value = await act(() => take(api.POST('/api/filing-suggestions/learning', {}))))
const tryRule = (r: Schemas['RecognisedContent']) =>
  emit('rule', { name: r.title, kind: r.kind, seriesId: r.existing?.id ?? null })
</script>

<template>
  <section class="panel block" aria-label="Suggestions">
    <header>
      <h2>Suggestions</h2>
      <span class="quiet small">they file nothing by themselves</span
      ><el-button v-if="may('writeSchedule')" size="small" class="right" :loading="busy" @click="learn"
        >Learn again</el-button
      >
    </header>
    <p v-if="error ?? problem" class="problem" role="alert">{{ (error ?? problem)!.message }}</p>
    <p v-if="asked" class="small quiet" role="status">Asked for; the figures follow when the job is done.</p>
    <h3>Learnt from what people filed by hand</h3>
    <p v-if="data && !data.learnt.length" class="quiet small">
      {{
        data.learntAt
          ? 'Nothing to learn from yet: it takes two series with five items each that were filed by hand.'
          : 'Nothing has been learnt yet.'
      }}
    </p>
    <template v-else-if="data">
      <p class="small quiet">
        From {{ plural(data.examples, 'item') }}, last on {{ moment(data.learntAt!) }}. Each was judged once by what was
        learnt from the others (five-fold cross-validation).
      </p>
      <div class="scroll">
        <table class="sheet">
          <thead>
            <tr>
              <th>Series</th>
              <th class="num">Suggested for</th>
              <th>Right when suggested</th>
              <th>Found of its own</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in data.learnt" :key="l.series.id">
              <td>
                <RouterLink :to="`/schedule/${l.series.id}`">{{ l.series.code }}</RouterLink> {{ l.series.title }}
              </td>
              <td class="num">
                <RouterLink
                  v-if="l.items"
                  :to="`/content?suggested=${l.series.id}`"
                  :aria-label="`${plural(l.items, 'item')} that ${l.series.code} is suggested for`"
                  >{{ count(l.items) }}</RouterLink><span v-else class="quiet">0</span>
              </td>
              <td>{{ precisionWords(l.suggested) }}</td>
              <td>{{ precisionWords(l.found) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <template v-if="data?.recognised">
      <h3>Recognised, and filed nowhere</h3>
      <p v-if="!data.recognised.length" class="quiet small">
        All content whose kind was recognised is filed, or a filing rule looks for it.
      </p>
      <table v-else class="sheet">
        <thead>
          <tr>
            <th>Holds</th>
            <th class="num">Items</th>
            <th>Would suit</th>
            <th><span class="sr">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in data.recognised" :key="r.kind">
            <td>{{ r.title }}</td>
            <td class="num">
              <RouterLink :to="`/content?kind=${r.kind}&unfiled=true`">{{ count(r.items) }}</RouterLink>
            </td>
            <td>
              <RouterLink v-if="r.existing" :to="`/schedule/${r.existing.id}`"
                >{{ r.existing.code }} {{ r.existing.title }}</RouterLink
              ><template v-else-if="r.starter"
                >{{ r.starter.title }}
                <span class="quiet"
                  >({{ r.starter.authorities.join(', ') || 'no authority known' }}), from the starter library</span
                ></template
              ><span v-else class="quiet">a kind of your own</span>
            </td>
            <td class="num acts">
              <template v-if="may('writeSchedule')"
                ><button
                  v-if="r.starter && !r.existing"
                  class="link"
                  :aria-label="`Draft the series for ${r.title}`"
                  @click="drafting = r.starter"
                >
                  Draft the series
                </button>
                {{ ' ' }}
                <button class="link" :aria-label="`Try a filing rule for ${r.title}`" @click="tryRule(r)">
                  Try a filing rule
                </button></template
              >
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <NewSeries
      v-if="drafting"
      :starter="drafting"
      @close="drafting = null"
      @made="(id) => router.push(`/schedule/${id}`)"
    />
  </section>
</template>

<style scoped>
header {
  display: flex;
  gap: 10px;
  align-items: baseline;
}
.right {
  margin-left: auto;
}
h3 {
  font-size: 13px;
  margin: 10px 0 0;
}
p {
  margin: 2px 0 6px;
}
.scroll {
  max-height: 260px;
  overflow: auto;
}
.acts {
  white-space: nowrap;
}
.acts button + button {
  margin-left: 12px;
}
</style>
