<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { useAct } from '@/shared/act'
import { api, take, type Schemas } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import { useOwned } from './owned'
import { peopleWords, silenceWords } from './words'

/** What somebody owns, and the reviews that they start of who reaches it. */
const { data, error } = useOwned()
const chosen = ref<string[]>([])
/** The group or place whose people are looked at. */
const opened = ref<Schemas['OwnedThing'] | null>(null)
const people = useQuery({
  queryKey: computed(() => ['owned', 'people', opened.value?.id]),
  queryFn: () => take(api.GET('/api/owned/people', { params: { query: { thing: opened.value!.id } } })),
  enabled: computed(() => !!opened.value),
})
const form = reactive({
  name: '',
  people: 'everybody' as Schemas['ReviewPeople'],
  inactiveDays: 90,
  days: 14,
  silence: 'keep' as Schemas['SilenceRule'],
})
const { act, busy, problem } = useAct(['reviews'])
const usual = computed(() =>
  chosen.value.length === 1
    ? `Who reaches ${data.value?.things.find((t) => t.id === chosen.value[0])?.name}`
    : `Who reaches ${plural(chosen.value.length, 'thing')} of mine`,
)
async function start() {
  const body = { ...form, name: form.name.trim() || usual.value, things: chosen.value }
  if (await act(() => take(api.POST('/api/owned/reviews', { body })))) [chosen.value, form.name] = [[], '']
}
</script>

<template>
  <main class="page">
    <header><h1>What I own</h1></header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <template v-if="data">
      <p v-if="data.things.length === 0" class="quiet">
        Nothing: the directory names you as the owner of no group and no place.
      </p>
      <table v-else class="sheet">
        <thead>
          <tr>
            <th v-if="data.mayReview"><span class="sr">Choose</span></th>
            <th>Group or place</th>
            <th class="num">People</th>
            <th class="num">Guests among them</th>
            <th>Last reviewed</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in data.things" :key="t.id">
            <td v-if="data.mayReview"><input v-model="chosen" type="checkbox" :value="t.id" :aria-label="t.name" /></td>
            <td>
              {{ t.name }} <span class="small quiet">{{ t.kind }}</span>
            </td>
            <td class="num">
              <button v-if="t.people" class="link" :aria-label="`People of ${t.name}`" @click="opened = t">
                {{ count(t.people) }}</button><template v-else>0</template>
            </td>
            <td class="num" :class="{ lacking: t.guests }">{{ count(t.guests) }}</td>
            <td>{{ t.reviewedOn ? day(t.reviewedOn) : 'never' }}</td>
          </tr>
        </tbody>
      </table>
      <section v-if="opened && people.data.value" class="panel block" :aria-label="`People of ${opened.name}`">
        <header class="with">
          <h2>{{ opened.name }}</h2>
          <button class="link small" @click="opened = null">Close</button>
        </header>
        <ul class="people">
          <li v-for="p in people.data.value" :key="p.id">
            {{ p.name }}
            <span class="small" :class="p.kind === 'guest' ? 'lacking' : 'quiet'">{{
              p.kind === 'person' ? p.unit : p.kind
            }}</span>
          </li>
        </ul>
      </section>
      <p v-if="people.error.value" class="problem" role="alert">{{ people.error.value.message }}</p>
      <form v-if="data.mayReview && chosen.length" class="panel block asked" @submit.prevent="start">
        <el-input v-model="form.name" size="small" class="name" :placeholder="usual" aria-label="Name" />
        <span>ask me about</span>
        <el-select v-model="form.people" size="small" class="who" aria-label="Whose access"
          ><el-option v-for="(w, p) in peopleWords" :key="p" :value="p" :label="w"
        /></el-select>
        <label v-if="form.people === 'inactive'"
          >for <el-input-number v-model="form.inactiveDays" size="small" :min="1" :max="3650" /> days</label
        >
        <label>within <el-input-number v-model="form.days" size="small" :min="1" :max="365" /> days;</label>
        <label for="owned-silence">if I do not answer,</label>
        <el-select id="owned-silence" v-model="form.silence" size="small" class="who"
          ><el-option v-for="(w, s) in silenceWords" :key="s" :value="s" :label="w"
        /></el-select>
        <el-button type="primary" size="small" native-type="submit" :loading="busy">Start the review</el-button>
        <p class="small quiet">
          What you decide to remove is taken away in the directory at the end. About yourself, the steward of your unit
          is asked, where there is one.
        </p>
      </form>
      <p v-else-if="!data.mayReview && data.things.length" class="small quiet">
        Whoever manages access can let owners start reviews of what they own.
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem.message }}</p>
      <section v-if="data.reviews.length" aria-label="My reviews">
        <h2>My reviews</h2>
        <ul>
          <li v-for="(r, i) in data.reviews" :key="i">
            <strong>{{ r.name }}</strong>, {{ plural(r.lines, 'line') }},
            <template v-if="r.endedAt"
              >ended {{ day(r.endedAt.slice(0, 10)) }},
              <a :href="`/api/owned/reviews/${r.id}/rounds/${r.round}/report.csv`" download
                >{{ r.removed }} removed</a
              ></template
            ><template v-else
              >{{ count(r.open) }} open, until {{ day(r.endsOn)
              }}<template v-if="r.link">: <RouterLink :to="r.link">decide</RouterLink></template></template
            >
          </li>
        </ul>
      </section>
    </template>
  </main>
</template>

<style scoped>
.page {
  max-width: 900px;
  margin: 0 auto;
  padding: 18px 20px 40px;
  display: grid;
  gap: 14px;
  align-content: start;
}
h1 {
  font-size: 20px;
}
h2 {
  font-size: 16px;
}
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 10px;
  align-items: center;
  font-size: 13.5px;
}
.asked p {
  flex-basis: 100%;
}
.with {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
.people {
  columns: 3 220px;
}
.name {
  width: 240px;
}
.who {
  width: 190px;
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
</style>
