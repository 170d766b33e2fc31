<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, take } from '@/shared/api/client'
import { count, day, plural } from '@/shared/format'
import { may } from '@/shared/session'
import { useUrl } from '@/shared/url'
import ShowMore from '@/shared/ShowMore.vue'
import ChangePanel from './ChangePanel.vue'
import ReachTable from './ReachTable.vue'
import WaysDrawing from './WaysDrawing.vue'
import { askFor, kindWords } from './words'

/** One question at a time: what a person reaches, who reaches a place, what membership of a group gives. */
const { text, put } = useUrl()
const router = useRouter()
const person = text('person')
const resource = text('resource')
const group = text('group')
const second = text('with')
const asked = computed(() => ({
  person: person.value || undefined,
  resource: resource.value || undefined,
  group: group.value || undefined,
}))
/** The same question for the table of it. */
const table = computed(() => {
  const given = Object.entries(asked.value).filter((e): e is [string, string] => !!e[1])
  return `/api/access/reach.csv?${new URLSearchParams(given)}`
})
const some = computed(() => !!(person.value || resource.value || group.value))
const entries = useQuery({ queryKey: ['entries', 'all'], queryFn: () => take(api.GET('/api/access/entries')) })
const { data, error } = useQuery({
  queryKey: computed(() => ['reach', asked.value]),
  queryFn: () => take(api.GET('/api/access/reach', { params: { query: asked.value } })),
  enabled: some,
  placeholderData: keepPreviousData,
})
const compared = useQuery({
  queryKey: computed(() => ['reach', 'compare', person.value, second.value]),
  queryFn: () =>
    take(api.GET('/api/access/comparison', { params: { query: { first: person.value, second: second.value } } })),
  enabled: computed(() => !!person.value && !!second.value),
})
const choices = computed(() => (entries.data.value ?? []).filter((e) => e.kind !== 'consent'))
function choose(id: string) {
  const found = choices.value.find((e) => e.id === id)
  if (found) void router.push(askFor(found))
}
const people = computed(() => (entries.data.value ?? []).filter((e) => ['person', 'guest', 'service'].includes(e.kind)))
/** The pair whose ways are drawn. */
const pair = computed(() => (text('way').value ? text('way').value.split('|') : null))
const isPerson = computed(() => !!data.value && ['person', 'guest', 'service'].includes(data.value.about.kind))
const says = computed(() => {
  const a = data.value?.about
  if (!a || !data.value) return ''
  const n = data.value.reach.length
  const sensitive = data.value.reach.filter((r) => r.sensitive).length
  const besides =
    sensitive && a.kind !== 'library' ? `, ${plural(sensitive, 'sensitive one', 'sensitive ones')} among them` : ''
  if (isPerson.value) return `reaches ${plural(n, 'place')}${besides}.`
  if (a.kind === 'group') return `gives ${plural(n, 'place')}${besides}.`
  return `is reached by ${plural(n, 'person', 'people')}.`
})
const shown = ref(30)
</script>

<template>
  <main class="page">
    <header>
      <h1>Reach</h1>
      <el-select
        :model-value="''"
        filterable
        placeholder="A person, a group or a place"
        aria-label="Ask about a person, a group or a place"
        class="ask"
        @change="choose"
        ><el-option v-for="e in choices" :key="e.id" :value="e.id" :label="e.name"
          >{{ e.name }} <span class="quiet small">{{ kindWords[e.kind] }} {{ e.detail }}</span></el-option
        ></el-select
      >
    </header>
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <section v-if="!some" class="panel block">
      <h2>Who reaches what, and by which way?</h2>
      <p>
        Ask about a person to see every place that they reach; about a place to see everybody who reaches it; about a
        group to see what membership gives, before you add anybody.
      </p>
      <p v-if="entries.data.value">
        The directory has {{ plural(people.length, 'account') }},
        {{ plural(entries.data.value.filter((e) => e.kind === 'group').length, 'group') }} and
        {{
          plural(
            entries.data.value.length - people.length - entries.data.value.filter((e) => e.kind === 'group').length,
            'place',
          )
        }}.
      </p>
    </section>
    <template v-if="some && data">
      <section class="answer">
        <p class="says">
          <strong>{{ data.about.name }}</strong>, {{ kindWords[data.about.kind]
          }}<template v-if="data.about.detail"> ({{ data.about.detail }})</template>,
          {{ says }}
          <a class="small" :href="table" download>CSV</a>
        </p>
        <p class="small facts">
          <span v-if="data.about.left" class="lacking">▲ has left</span>
          <span v-if="data.about.suspended" class="lacking">▲ suspended</span>
          <span v-if="data.leaves && !data.about.left">leaves on {{ day(data.leaves) }}</span>
          <span v-if="isPerson">last sign-in {{ data.lastSignIn ? day(data.lastSignIn) : 'not known' }}</span>
          <span v-if="data.about.owner"
            >{{ isPerson ? 'manager' : 'owner' }}
            <RouterLink :to="{ path: '/access', query: { person: data.about.owner } }">{{
              data.about.owner
            }}</RouterLink></span
          ><span v-else-if="!isPerson" class="lacking">no owner</span>
          <RouterLink v-if="data.alerts" to="/activity/alerts">{{ plural(data.alerts, 'open alert') }}</RouterLink>
          <RouterLink
            v-if="isPerson && may('readActivity')"
            :to="{ path: '/activity/search', query: { cql: `actor == &quot;${data.about.id}&quot;`, days: '90' } }"
            >what they did</RouterLink
          >
          <span v-for="l in data.links" :key="l.to + l.role" class="lacking"
            >shared with {{ l.to === 'anyone' ? 'anyone who has the link' : 'the organisation' }} as {{ l.role
            }}<template v-if="l.ends">, until {{ day(l.ends) }}</template></span
          >
        </p>
        <p v-if="data.groups.length" class="small">
          {{ isPerson || data.about.kind === 'group' ? 'In' : 'Granted to' }}:
          <template v-for="(g, i) in data.groups" :key="g.id"
            >{{ i ? ', ' : '' }}<RouterLink :to="askFor(g)">{{ g.name }}</RouterLink></template
          >
        </p>
        <p v-if="data.members.length" class="small">
          Holds:
          <template v-for="(m, i) in data.members.slice(0, shown)" :key="m.id"
            >{{ i ? ', ' : ''
            }}<RouterLink :to="askFor(m)" :class="{ guest: m.kind === 'guest' }">{{ m.name }}</RouterLink></template
          >
        </p>
        <ShowMore v-model="shown" :of="data.members.length" />
        <p v-if="data.consents.length" class="small">
          Consents: <span v-for="c in data.consents" :key="c.by">{{ c.by }} ({{ c.scopes.join(', ') }}) </span>
        </p>
      </section>
      <ChangePanel :answer="data" :entries="entries.data.value ?? []" />
      <div v-if="person" class="compare">
        <span class="small quiet">Compare with</span>
        <el-select
          :model-value="second"
          filterable
          clearable
          size="small"
          placeholder="somebody else"
          aria-label="Compare with"
          @change="(v?: string) => put({ with: v || null })"
          ><el-option v-for="p in people" :key="p.id" :value="p.id" :label="p.name"
        /></el-select>
        <span v-if="compared.data.value" class="small">
          both reach {{ count(compared.data.value.both.length) }}; only {{ data.about.name }}
          {{ count(compared.data.value.onlyFirst.length) }}; only the other
          {{ count(compared.data.value.onlySecond.length) }}:
          {{
            compared.data.value.onlySecond
              .slice(0, 6)
              .map((r) => r.resourceName)
              .join(', ')
          }}
        </span>
      </div>
      <WaysDrawing v-if="pair" :key="pair.join()" :person="pair[0]!" :resource="pair[1]!" @close="put({ way: null })" />
      <ReachTable :answer="data" @way="(way) => put({ way })" />
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 16px 20px 32px;
  overflow: auto;
  height: 100%;
  display: grid;
  gap: 12px;
  align-content: start;
}
header,
.compare {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
}
h1 {
  font-size: 20px;
}
header .ask {
  width: 420px;
}
.says {
  font: 400 18px/1.5 var(--serif);
}
.answer {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
.facts {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
}
.guest {
  font-style: italic;
}
.compare .el-select {
  width: 240px;
}
</style>
